"""Sets the weights of the networks that find resonances: writes core/suspects/resonance/net.json.

`python3 bench/recordings/training/train.py PROFILES.bin …`, with what `npm run bench -- suspect-profiles` wrote; needs Debian's python3-numpy.
What a bell adds is the same in every profile of a recording, so bells are planted by adding them: tens of thousands of them, by seed.
"""
import base64
import json
import multiprocessing
import pathlib
import sys
import numpy as np

PER_OCTAVE, LOWEST_HZ = 60, 40.0
LEVEL_ROWS = [0, 1, 2, 3, 4, 5, 6, 7, 10, 11, 12, 13, 14, 15, 16, 17]
LONG_ROWS = slice(0, 8)
SHORT_ROWS = slice(10, 18)
PARTIAL_SHARE, MOVEMENT, USUAL, OFTEN = 8, 9, 2, 4
NEAR, FAR, STEP = 24, 100, 5
# Windows as in core/suspects/resonance/profiles.ts: size, from, to.
LONG = [(65536, 0, 400), (32768, 400, 1200), (16384, 1200, 20000)]
SHORT = [(32768, 0, 400), (8192, 400, 1200), (4096, 1200, 20000)]
RATE = 48000
FROM_HZ, TO_HZ = 90, 9200


def read(path):
    """Recordings: name, levels of third-octaves by band (dB), profiles."""
    data = pathlib.Path(path).read_bytes()
    head = json.loads(data[4:4 + int.from_bytes(data[:4], 'little')])
    values = np.frombuffer(data, 'f4', offset=4 + int.from_bytes(data[:4], 'little'))
    rows = values.reshape(len(head['names']), head['rows'] + 1, head['bands'])
    return [(name, row[0], row[1:]) for name, row in zip(head['names'], rows)]


def hz_of(bands):
    return LOWEST_HZ * 2 ** ((np.arange(bands) + .5) / PER_OCTAVE)


def bell_db(f0, q, gain_db, hz):
    a = 10 ** (gain_db / 40)
    d = (hz / f0 - f0 / hz) * q
    return 10 * np.log10((d ** 2 + a ** 2) / (d ** 2 + 1 / a ** 2))


def seen(f0, q, gain_db, hz, windows):
    """A bell as windows of some lengths see it: spread by their main lobe."""
    out = np.zeros(len(hz))
    for size, low, high in windows:
        own = (hz >= low) & (hz < high)
        offsets = np.array([-1.5, -.75, 0, .75, 1.5])
        weights = np.exp(-.5 * offsets ** 2)
        power = sum(w * 10 ** (bell_db(f0, q, gain_db, np.maximum(10, hz[own] + o * .9 * RATE / size)) / 10)
                    for o, w in zip(offsets, weights / weights.sum()))
        out[own] = 10 * np.log10(power)
    return out


def planted(rows, f0, q, gain_db):
    hz = hz_of(rows.shape[1])
    out = rows.copy()
    out[LONG_ROWS] += seen(f0, q, gain_db, hz, LONG)
    out[SHORT_ROWS] += seen(f0, q, gain_db, hz, SHORT)
    return out


def moved(rows, by):
    """A recording that is tuned higher by some bands."""
    if by == 0:
        return rows
    if by > 0:
        return np.concatenate([np.repeat(rows[:, :1], by, 1), rows[:, :-by]], 1)
    return np.concatenate([rows[:, -by:], np.repeat(rows[:, -1:], -by, 1)], 1)


def describe(rows, places):
    """The figures of core/suspects/resonance/describe.ts."""
    places = np.asarray(places)
    pad = np.pad(rows, ((0, 0), (110, 110)), mode='edge')
    near = places[:, None] + 110 + np.arange(-NEAR, NEAR + 1)
    levels = pad[LEVEL_ROWS][:, near]
    levels = levels - np.median(levels, axis=2, keepdims=True)
    out = [np.clip(levels, -30, 40).transpose(1, 0, 2).reshape(len(places), -1) / 10,
           np.clip(pad[PARTIAL_SHARE][near], 0, 1), pad[MOVEMENT][near] / 10]
    far = places[:, None] + 110 + np.arange(-FAR, FAR + 1, STEP)
    for row in (USUAL, OFTEN):
        highest = np.max([np.roll(pad[row], -k) for k in range(-2, 3)], axis=0)[far]
        out.append(np.clip(highest - np.median(highest, axis=1, keepdims=True), -30, 40) / 10)
    out.append(np.log2(hz_of(rows.shape[1])[places] / 1000)[:, None])
    return np.concatenate(out, axis=1).astype('f4')


def band_at(hz):
    return np.log2(hz / LOWEST_HZ) * PER_OCTAVE - .5


FIRST, END = int(band_at(FROM_HZ)), int(band_at(TO_HZ))


def peaks(rows):
    sum_ = rows[USUAL] + rows[0] + rows[11]
    return [i for i in range(FIRST, END) if sum_[i] == sum_[i - 3:i + 4].max()]


def draw(third, rng):
    """A bell where the sound excites it, as bench/recordings/faults.ts plants them; a little wider in Q and gain."""
    hz = hz_of(len(third))
    for _ in range(60):
        f0 = np.exp(rng.uniform(np.log(100), np.log(8000)))
        q = np.exp(rng.uniform(np.log(9), np.log(36)))
        gain = rng.choice([6., 7.5, 9., 10.5, 12., 13.5, 15.])
        place = int(round(band_at(f0)))
        if third[place] < third.max() - 36:
            continue
        around = slice(max(0, place - 10), place + 11)
        power = 10 ** (third[around] / 10)
        change = (10 ** (bell_db(f0, q, gain, hz[around]) / 20) - 1) ** 2
        if (power * change).sum() >= .2 * power.sum():
            return f0, q, gain
    return None


def examples(recordings, count, rng):
    """Figures of places, and whether a bell was planted there."""
    figures, answers = [], []
    for _, third, clean in recordings:
        for turn in range(3):
            by = int(rng.integers(-14, 15)) if turn else 0
            rows = moved(clean, by)
            found = peaks(rows)
            none = np.concatenate([found if turn == 0 else rng.choice(found, min(30, len(found)), replace=False),
                                   rng.integers(FIRST, END, 10)]).astype(int)
            figures.append(describe(rows, none).astype('f2'))
            answers += [0] * len(none)
            for _ in range(count // 3):
                bell = draw(third, rng)
                if bell is None:
                    break
                f0 = bell[0] * 2 ** (by / PER_OCTAVE)
                place = int(round(band_at(f0)))
                if not FIRST <= place < END:
                    continue
                lifted = planted(rows, f0, *bell[1:])
                others = [i for i in peaks(lifted) if abs(i - place) > 3]
                close = [i for i in others if abs(i - place) < 30]
                none = [int(i) for i in rng.choice(others, min(1, len(others)), replace=False)]
                none += [int(rng.choice(close))] if close else []
                none += [int(np.clip(place + rng.choice([-5, -4, -3, 3, 4, 5]), FIRST, END - 1))]
                figures.append(describe(lifted, [place] + none).astype('f2'))
                answers += [1] + [0] * len(none)
    return np.concatenate(figures), np.array(answers, 'f4')


def bells(recordings, count, rng):
    """Figures of places with a bell, and what it is: Q, gain, and how far its place is missed."""
    figures, answers = [], []
    for _, third, clean in recordings:
        for _ in range(count):
            bell = draw(third, rng)
            if bell is None:
                break
            by = int(rng.integers(-10, 11))
            f0, gain = bell[0] * 2 ** (by / PER_OCTAVE), rng.uniform(5, 16)
            place = int(round(band_at(f0) + rng.normal(0, .5)))
            if FIRST <= place < END:
                figures.append(describe(planted(moved(clean, by), f0, bell[1], gain), [place]).astype('f2'))
                answers.append([np.log2(bell[1] / 16), (gain - 10) / 6, (band_at(f0) - place) / 2])
    return np.concatenate(figures), np.array(answers, 'f4')


class Network:
    """Layers that are fully connected, with a leaky rectifier between them; trained by Adam with dropout."""

    def __init__(self, sizes, seed):
        self.rng = np.random.default_rng(seed)
        self.weights = [self.rng.normal(0, np.sqrt(2 / a), (a, b)).astype('f4') for a, b in zip(sizes, sizes[1:])]
        self.biases = [np.zeros(b, 'f4') for b in sizes[1:]]

    def run(self, x):
        for i, (w, b) in enumerate(zip(self.weights, self.biases)):
            x = x @ w + b
            if i < len(self.weights) - 1:
                x = np.maximum(x, .05 * x)
        return x

    def train(self, figures, answers, mean, deviation, error, epochs, rate, decay, dropped_in, dropped, noise=.15, batch=256):
        """@param error derivative of what is lost by the output"""
        parts = self.weights + self.biases
        first, second, step = [np.zeros_like(p) for p in parts], [np.zeros_like(p) for p in parts], 0
        for epoch in range(epochs):
            order = self.rng.permutation(len(answers))
            now = rate * .5 * (1 + np.cos(np.pi * epoch / epochs)) + 1e-5
            for at in range(0, len(order), batch):
                some = order[at:at + batch]
                x = (figures[some].astype('f4') - mean) / deviation
                x = x + self.rng.normal(0, noise, x.shape).astype('f4')
                x *= self.rng.random(x.shape, dtype='f4') > dropped_in
                inputs, masks = [x], []
                for i, (w, b) in enumerate(zip(self.weights, self.biases)):
                    z = inputs[-1] @ w + b
                    if i < len(self.weights) - 1:
                        mask = np.where(z > 0, 1, .05) * (self.rng.random(z.shape, dtype='f4') > dropped) / (1 - dropped)
                        masks.append(mask.astype('f4'))
                        inputs.append((z * masks[-1]).astype('f4'))
                slope = (error(z, answers[some]) / len(some)).astype('f4')
                ofWeights, ofBiases = [], []
                for i in range(len(self.weights) - 1, -1, -1):
                    ofWeights.insert(0, inputs[i].T @ slope + decay * self.weights[i])
                    ofBiases.insert(0, slope.sum(0))
                    if i:
                        slope = (slope @ self.weights[i].T) * masks[i - 1]
                step += 1
                for j, g in enumerate(ofWeights + ofBiases):
                    first[j] = .9 * first[j] + .1 * g
                    second[j] = .999 * second[j] + .001 * g * g
                    parts[j] -= (now * (first[j] / (1 - .9 ** step)) / (np.sqrt(second[j] / (1 - .999 ** step)) + 1e-8)).astype('f4')
            print('epoch', epoch, flush=True)
        return self

    def layers(self):
        for weights, biases in zip(self.weights, self.biases):
            scales = np.abs(weights).max(0) / 127
            yield dict(inputs=weights.shape[0], outputs=weights.shape[1],
                       weights=base64.b64encode(np.round(weights / scales).astype('i1').tobytes()).decode(),
                       scales=[float('%.6g' % v) for v in scales], biases=[float('%.6g' % v) for v in biases])


# What the processes that work side by side share.
SHARED = {}


def some_examples(i):
    return examples(SHARED['recordings'][i::16], 70, np.random.default_rng(100 + i))


def some_bells(i):
    return bells(SHARED['recordings'][i::16], 50, np.random.default_rng(200 + i))


def together(work, processes):
    parts = processes.map(work, range(16), chunksize=1)
    return np.concatenate([figures for figures, _ in parts]), np.concatenate([answers for _, answers in parts])


def odds_error(z, answers):
    return 1 / (1 + np.exp(-z)) - answers[:, None]


def bell_error(z, answers):
    return np.tanh((z - answers) / .5)


def finder(seed):
    figures, answers, mean, deviation = SHARED['examples']
    network = Network((figures.shape[1], 96, 24, 1), seed)
    return network.train(figures, answers, mean, deviation, odds_error, epochs=14, rate=1.2e-3, decay=5e-5, dropped_in=.15, dropped=.35)


def main():
    SHARED['recordings'] = recordings = [recording for path in sys.argv[1:] for recording in read(path)]
    with multiprocessing.Pool() as processes:
        figures, answers = together(some_examples, processes)
        told, bell = together(some_bells, processes)
    print(len(recordings), 'recordings,', len(answers), 'examples', flush=True)
    mean = figures[::8].astype('f4').mean(0)
    deviation = figures[::8].astype('f4').std(0) + .05
    # What a first network takes for a bell in clean recordings is shown to the others as what it is, twice.
    first = Network((figures.shape[1], 64, 16, 1), 0).train(figures, answers, mean, deviation, odds_error, epochs=6, rate=1e-3, decay=1e-4, dropped_in=.2, dropped=.4)
    hard = []
    for _, _, clean in recordings:
        for by in (0, -9, 7):
            rows = describe(moved(clean, by), np.arange(FIRST, END))
            evidence = first.run((rows - mean) / deviation)[:, 0]
            taken = np.argsort(-evidence)[:12]
            hard.append(rows[taken[evidence[taken] > 0]].astype('f2'))
    hard = np.concatenate(hard)
    print(len(hard), 'that were taken for one', flush=True)
    SHARED['examples'] = (np.concatenate([figures, hard, hard]), np.concatenate([answers, np.zeros(2 * len(hard), 'f4')]), mean, deviation)
    with multiprocessing.Pool(2) as processes:
        finders = processes.map(finder, (0, 1))
    fitter = Network((figures.shape[1], 32, 3), 0).train(told, bell, mean, deviation, bell_error, epochs=30, rate=1e-3, decay=1e-4, dropped_in=0, dropped=.2)
    out = dict(mean=[float('%.5g' % v) for v in mean], deviation=[float('%.5g' % v) for v in deviation],
               finders=[list(network.layers()) for network in finders], fitter=list(fitter.layers()))
    pathlib.Path('core/suspects/resonance/net.json').write_text(json.dumps(out) + '\n')


main()
