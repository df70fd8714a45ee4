'use client';
import { writeFrequency } from '@/core/formats';
import { bandForBleed } from '@/core/mix';
import type { Track } from '@/core/song';
import { FindingRows } from '../../kit/controls/panel';
import { BleedChart } from './bleed-chart';
import { useBleed } from './bleed-store';
import { Finding } from './finding';

const tidy = (hz: number) => writeFrequency(Number(hz.toPrecision(2)));

/** What of other tracks is heard in a track's recording. */
export function OfOthers({ track }: { track: Track }) {
  const { found, left, problem } = useBleed(track);
  if (problem)
    return (
      <p role="alert">
        The recording could not be held against the others. {problem} Choose the track again to try once more.
      </p>
    );
  return (
    <>
      {found.length > 0 && <p>Of other tracks, in the recording of {track.name}:</p>}
      {found.length > 0 && (
        <FindingRows aria-label="Bleed of other tracks">
          {found.map(({ source, bleed }) => {
            const name = `Bleed of ${source.name}`;
            const answer = bandForBleed(bleed, source.id);
            return (
              <Finding
                key={source.id}
                trackId={track.id}
                finding={bleed}
                name={name}
                place={`${tidy(bleed.lowHz)} to ${tidy(bleed.highHz)}`}
                atHz={Math.sqrt(bleed.lowHz * bleed.highHz)}
                facts={[
                  `${Math.round(100 * bleed.share)} % of what is there`,
                  `${(1000 * bleed.delaySeconds).toFixed(1)} ms later`,
                ]}
                foundBy="what is there goes with the other recording, wave by wave"
                picture={<BleedChart bleed={bleed} sourceName={source.name} />}
                answer={() => [answer]}
                answerHint={
                  answer.type === 'high-pass'
                    ? 'A high-pass above it, to begin with'
                    : `A band that gives way while ${source.name} sounds, to begin with`
                }
                note={`bleed of ${source.name}`}
              />
            );
          })}
        </FindingRows>
      )}
      {left > 0 && (
        <p role="status">
          Held against the other tracks: {left} {left === 1 ? 'is' : 'are'} left …
        </p>
      )}
    </>
  );
}
