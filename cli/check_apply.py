#!/usr/bin/env python3
"""Filters a WAV with scipy.signal.sosfilt by printed sections and prints how far another WAV lies from it, in dBFS.

Run: check_apply.py SECTIONS.csv IN.wav OUT.wav (Debian: python3-scipy). Both WAV files hold 32-bit floats.
"""
import sys
import numpy as np
from scipy import signal
from scipy.io import wavfile

sos = np.loadtxt(sys.argv[1], delimiter=",", skiprows=1, ndmin=2)
_, x = wavfile.read(sys.argv[2])
_, y = wavfile.read(sys.argv[3])
wanted = signal.sosfilt(sos, x.astype(np.float64), axis=0)
print(20 * np.log10(np.max(np.abs(wanted - y)) + 1e-30))
