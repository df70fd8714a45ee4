'use client';
import { useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import { asOrvidError } from '@/core/errors';
import { designEqualizer, impulseFrames, impulseResponse } from '@/core/filters';
import { parseEqualizerFile, PcmEncoder, wavHeader, writeNumber, writeSections } from '@/core/formats';
import type { Equalizer } from '@/core/song';
import { plainName } from '@/core/renders';
import { useDesk, type Desk } from '../../window/desk/desk';
import { Button } from '../../kit/controls/button';
import { PanelLine } from '../../kit/controls/panel';
import { errorOf } from '../../window/server/request';
import { chooseNewest, copyOf, putCopied } from '../../window/song/equalizer-edits';
import { songOf } from '../../window/song/live-song';
import { chosenBand, chosenStrips, stripName } from '../../window/song/selection';
import { tellError } from '../../window/notices/notices';

interface Fitted {
  equalizer: string;
  bands: number;
  worstErrorDb: number;
  kind: 'sections' | 'impulse';
}

/** Puts what a file says on the chosen tracks. @returns what became of it, in words */
async function putFile(desk: Desk, file: File): Promise<string> {
  const stripIds = chosenStrips(desk).map(({ id }) => id);
  if (/\.json$/i.test(file.name)) {
    const text = await file.text();
    const { bands } = parseEqualizerFile(text, file.name);
    putCopied(desk, stripIds, { kind: 'equalizer', text });
    return `“${file.name}”: ${bands.length === 1 ? 'one band' : `${bands.length} bands`}.`;
  }
  const { rateHz } = songOf(desk);
  const response = await fetch(`/api/fit?name=${encodeURIComponent(file.name)}&rate=${rateHz}`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: file,
  });
  const answer = (await response.json().catch(() => ({}))) as Fitted;
  if (!response.ok) throw errorOf(answer, response.status);
  putCopied(desk, stripIds, { kind: 'equalizer', text: answer.equalizer });
  chooseNewest(desk);
  const bands = answer.bands === 1 ? 'one band' : `${answer.bands} bands`;
  return answer.kind === 'sections'
    ? `“${file.name}”: ${bands}, within ${writeNumber(answer.worstErrorDb, 2)} dB of its sections at ${rateHz / 1000} kHz.`
    : `“${file.name}”: ${bands}, within ${writeNumber(answer.worstErrorDb)} dB of its curve from 40 Hz to 16 kHz; its phase is left aside.`;
}

/** The equalizer's impulse response as a mono WAV file of 32-bit floats. */
function impulseFile(equalizer: Equalizer, rateHz: number): Blob {
  const frames = impulseFrames(equalizer, rateHz);
  const header = wavHeader({ channels: 1, rateHz, format: '32f', frames });
  const samples = new PcmEncoder(1, '32f').encode([impulseResponse(equalizer, rateHz, frames)], frames);
  return new Blob([header, samples] as BlobPart[]);
}

/** What an equalizer is taken away as. */
const OUTPUTS: Record<
  'json' | 'csv' | 'wav',
  { ending: string; type: string; write: (equalizer: Equalizer, rateHz: number) => BlobPart }
> = {
  json: { ending: '.orvid-eq.json', type: 'application/json', write: (equalizer) => copyOf(equalizer).text },
  csv: {
    ending: '-sections.csv',
    type: 'text/csv',
    write: (equalizer, rateHz) => `${writeSections(designEqualizer(equalizer, rateHz))}\n`,
  },
  wav: { ending: '-impulse.wav', type: 'audio/wav', write: impulseFile },
};

function save(name: string, content: BlobPart, type: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([content], { type }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

/** The equalizer on the bench from a file, and to one. */
export function FileSection() {
  const desk = useDesk();
  const [said, setSaid] = useState('');
  const open = async (file: File | undefined) => {
    if (!file) return;
    setSaid(`Looking at “${file.name}” …`);
    try {
      setSaid(await putFile(desk, file));
    } catch (thrown) {
      setSaid('');
      tellError(desk, asOrvidError(thrown));
    }
  };
  const download = (kind: keyof typeof OUTPUTS) => {
    const { strip, equalizer } = chosenBand(desk);
    if (!equalizer) return;
    const { ending, type, write } = OUTPUTS[kind];
    save(`${plainName(stripName(strip)) || 'equalizer'}${ending}`, write(equalizer, songOf(desk).rateHz), type);
  };
  return (
    <>
      <h2>Files</h2>
      <p>An equalizer file, sections as CSV, or an impulse response.</p>
      <PanelLine>
        <FileTrigger
          acceptedFileTypes={['.json', '.csv', '.txt', '.wav', '.flac']}
          onSelect={(files) => void open(files?.[0])}
        >
          <Button>Open…</Button>
        </FileTrigger>
        <Button data-hint="The equalizer on the bench as an equalizer file" onPress={() => download('json')}>
          Take as file
        </Button>
        <Button
          data-hint="The second-order sections that run, for other programs: what acts on everything, at the song’s rate"
          onPress={() => download('csv')}
        >
          as CSV
        </Button>
        <Button
          data-hint="The impulse response that runs, for programs that convolve: what acts on everything, at the song’s rate"
          onPress={() => download('wav')}
        >
          as WAV
        </Button>
      </PanelLine>
      {said && <p role="status">{said}</p>}
    </>
  );
}
