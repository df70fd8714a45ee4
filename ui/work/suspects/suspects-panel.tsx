'use client';
import { useEffect } from 'react';
import { writeFrequency, writeNumber } from '@/core/formats';
import type { Track } from '@/core/song';
import { bandsForSuspect, type Suspect, type SuspectKind } from '@/core/suspects';
import { useDesk } from '../../window/desk/desk';
import { FindingRows, PanelBody } from '../../kit/controls/panel';
import { useChosenStrip } from '../../window/song/selection';
import { SuspectChart } from './suspect-picture';
import { Finding } from './finding';
import { endFinding } from './hear-finding';
import { OfOthers } from './bleed-rows';
import { OverTime } from './over-time';
import { useSuspects } from './suspects-store';

const KINDS: Record<SuspectKind, { name: string; about: string; foundBy: string }> = {
  resonance: {
    name: 'Resonance',
    about: 'stays put whatever is played',
    foundBy: 'it lifts this place in soft and loud, bright and dark moments alike',
  },
  modes: {
    name: 'Modes of the room',
    about: 'a family of resonances',
    foundBy:
      'places that lie as between walls, each lifted whatever is played; a drum’s own overtones are much like that',
  },
  hum: {
    name: 'Mains hum',
    about: 'with its harmonics',
    foundBy: 'lines at multiples of the mains’ frequency, whatever is played',
  },
  rumble: {
    name: 'Rumble',
    about: 'runs under the whole recording',
    foundBy: 'its level hardly moves while the recording does',
  },
  hiss: {
    name: 'Hiss',
    about: 'runs under the whole recording',
    foundBy: 'its level hardly moves while the recording does',
  },
  sibilance: {
    name: 'Sibilance',
    about: 'S, SH and the like take over',
    foundBy: 'short moments in which the highs are louder than all the rest',
  },
  pops: {
    name: 'Pops and thumps',
    about: 'burst out of the lows',
    foundBy: 'short bursts of lows in a recording that has hardly any',
  },
  whistle: {
    name: 'Whistle',
    about: 'it moves, or comes and goes',
    foundBy: 'a line over time that begins and ends without a stroke, and is no partial of a note',
  },
  clicks: {
    name: 'Clicks',
    about: 'no filter takes them away: mend the recording',
    foundBy: 'single samples, or a few, that do not follow from those before them',
  },
};

/** What has a place of its own, and is no range. */
const PLACED: readonly SuspectKind[] = ['resonance', 'hum', 'sibilance'];

const rangeText = (lowHz: number, highHz: number) =>
  `${writeFrequency(Number(lowHz.toPrecision(2)))} to ${writeFrequency(Number(highHz.toPrecision(2)))}`;

function placeOf({ kind, frequencyHz, lowHz, highHz, count, modes }: Suspect): string {
  if (kind === 'clicks') return `${count} of them`;
  if (modes) return modes.map(({ frequencyHz: hz }) => Math.round(hz)).join(', ') + ' Hz';
  return PLACED.includes(kind) ? writeFrequency(Number(frequencyHz.toPrecision(3))) : rangeText(lowHz, highHz);
}

/** What its height is counted from: noise has no surroundings that are quieter. */
const overText = (kind: SuspectKind) =>
  kind === 'rumble' || kind === 'hiss' ? 'over a quiet recording' : 'over its surroundings';

const sureText = (sureness: number) =>
  `${sureness > 0.8 ? 'quite sure' : sureness > 0.5 ? 'likely' : 'worth a listen'}, ${Math.round(100 * sureness)} %`;

/** What may be wrong with the chosen track's recording: each is heard before it is taken, and nothing is done by itself. */
export function SuspectsPanel() {
  const strip = useChosenStrip();
  return (
    <PanelBody aria-label="Suspects">
      <h2>Suspects</h2>
      {'audioId' in strip ? (
        <OfTrack key={strip.id} track={strip} />
      ) : (
        <p>Choose a track: its recording is looked through here.</p>
      )}
    </PanelBody>
  );
}

function OfTrack({ track }: { track: Track }) {
  const desk = useDesk();
  useEffect(() => () => endFinding(desk), [desk]);
  return (
    <>
      <OfRecording track={track} />
      <OfOthers track={track} />
    </>
  );
}

function OfRecording({ track }: { track: Track }) {
  const { suspects, problem } = useSuspects(track.audioId);
  if (problem)
    return (
      <p role="alert">The recording could not be looked through. {problem} Choose the track again to try once more.</p>
    );
  if (!suspects) return <p role="status">The recording of {track.name} is being looked through …</p>;
  if (suspects.length === 0) return <p>Nothing stands out in the recording of {track.name}.</p>;
  return (
    <>
      <p>In the recording of {track.name}, before its equalizer:</p>
      <FindingRows aria-label="Suspects, the surest first">
        {suspects.map((suspect) => {
          const { name, about, foundBy } = KINDS[suspect.kind];
          return (
            <Finding
              key={`${suspect.kind} ${suspect.frequencyHz}`}
              trackId={track.id}
              finding={suspect}
              name={name}
              place={placeOf(suspect)}
              atHz={suspect.frequencyHz}
              facts={[
                `${about}${suspect.harmonics ? `, ${suspect.harmonics} of them` : ''}`,
                sureText(suspect.sureness),
              ]}
              measured={`${writeNumber(suspect.prominenceDb)} dB ${overText(suspect.kind)}${howMuchText(suspect)}`}
              moments={suspect.moments}
              hasMore={(suspect.count ?? 0) > (suspect.moments?.length ?? 0)}
              foundBy={foundBy}
              picture={
                <>
                  <SuspectChart suspect={suspect} />
                  <OverTime track={track} suspect={suspect} />
                </>
              }
              answer={suspect.kind === 'clicks' ? null : () => bandsForSuspect(suspect)}
              answerHint={
                suspect.modes ? 'A bell for each of them, to begin with' : 'A band that fits it, to begin with'
              }
              note={`${name.toLowerCase()}: ${about}`}
            />
          );
        })}
      </FindingRows>
    </>
  );
}

/** How many there are of what is only a moment, where its place does not say that; of all else how much of the time it is there. */
function howMuchText({ kind, count, timeShare }: Suspect): string {
  if (kind === 'clicks') return '';
  return kind === 'pops' || kind === 'sibilance' ? `, ${count} of them` : `, ${shareText(timeShare)}`;
}

const shareText = (timeShare: number) =>
  timeShare < 0.995 ? `${Math.max(1, Math.round(timeShare * 100))} % of the time` : 'all the time';
