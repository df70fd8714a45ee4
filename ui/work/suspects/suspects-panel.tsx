'use client';
import { useEffect } from 'react';
import { writeNumber } from '@/core/formats';
import type { Track } from '@/core/song';
import { bandsForSuspect, type Suspect, type SuspectKind } from '@/core/suspects';
import { useDesk } from '../../window/desk/desk';
import { FindingRows, PanelBody } from '../../kit/controls/panel';
import { useChosenStrip } from '../../window/song/selection';
import { SuspectChart } from './suspect-picture';
import { Finding } from './finding';
import { endFinding } from './hear-finding';
import { OfOthers } from './bleed-rows';
import { OfAllTracks } from './all-tracks';
import { OverTime } from './over-time';
import { useSuspects } from './suspects-store';
import { KINDS, placeOf, sureText } from './words';

/** What its height is counted from: noise has no surroundings that are quieter. */
function overText(kind: SuspectKind): string {
  if (kind === 'rumble' || kind === 'hiss') return 'over a quiet recording';
  return kind === 'sibilance' ? 'over what is usual' : 'over its surroundings';
}

/** What is taken against a suspect. */
function answerHint(kind: SuspectKind): string {
  if (kind === 'modes') return 'A bell for each of them, to begin with';
  if (kind === 'sibilance') return 'A bell that gives way while they sound, to begin with';
  return 'A band that fits it, to begin with';
}

/** What may be wrong with the chosen track's recording: each is heard before it is taken, and nothing is done by itself. */
export function SuspectsPanel() {
  const strip = useChosenStrip();
  return (
    <PanelBody aria-label="Suspects">
      <h2>Suspects</h2>
      <OfAllTracks />
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
              answerHint={answerHint(suspect.kind)}
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
