import { FREQUENCY_RANGE_HZ, type Edit, type Track } from '@/core/song';
import type { FrequencyBand } from '@/core/measure';
import type { FrequencyScale } from '../../kit/axis/scale';
import { stepHz, tidyHz, type StepSize } from '../../kit/gestures/steps';

/** Edits of what a track claims, by gestures and keys. */
export type ClaimPart = 'low' | 'high' | 'whole';

/** No narrower than a sixth of an octave. */
const NARROWEST = 2 ** (1 / 6);
const MOST_CLAIMS = 8;

const set = (trackId: string, claims: FrequencyBand[]): Edit => ({
  kind: 'strip.set',
  stripId: trackId,
  changes: { claims },
});

/** A range in order, tidy, and wide enough: the edge that is worked on gives way. */
function ordered(lowHz: number, highHz: number, part: ClaimPart): FrequencyBand {
  const { min, max } = FREQUENCY_RANGE_HZ;
  const within = (hz: number, from: number, to: number) => Math.min(to, Math.max(from, hz));
  const keptHigh = within(highHz, min * NARROWEST, max);
  const low = within(lowHz, min, part === 'low' ? keptHigh / NARROWEST : max / NARROWEST);
  const high = part === 'low' ? keptHigh : within(highHz, low * NARROWEST, max);
  return { lowHz: tidyHz(low), highHz: tidyHz(high) };
}

type Claiming = Pick<Track, 'id' | 'claims'>;

export function changeClaim(
  { id, claims }: Claiming,
  index: number,
  claim: FrequencyBand,
  part: ClaimPart = 'high',
): Edit {
  return set(
    id,
    claims.map((other, i) => (i === index ? ordered(claim.lowHz, claim.highHz, part) : other)),
  );
}

/** A claim that is dragged sideways, by an edge or as a whole. */
export function dragClaim(track: Claiming, index: number, part: ClaimPart, dx: number, axis: FrequencyScale): Edit {
  const { lowHz, highHz } = track.claims[index];
  const moved = (hz: number) => axis.hz(axis.x(hz) + dx);
  return changeClaim(
    track,
    index,
    { lowHz: part === 'high' ? lowHz : moved(lowHz), highHz: part === 'low' ? highHz : moved(highHz) },
    part,
  );
}

export function stepClaim(track: Claiming, index: number, part: ClaimPart, direction: 1 | -1, size: StepSize): Edit {
  const { lowHz, highHz } = track.claims[index];
  const stepped = (hz: number) => stepHz(hz, direction, size);
  return changeClaim(
    track,
    index,
    { lowHz: part === 'high' ? lowHz : stepped(lowHz), highHz: part === 'low' ? highHz : stepped(highHz) },
    part,
  );
}

/** One more claim; null where a track has as many as it may. @param first and second its edges in either order */
export function addClaim({ id, claims }: Claiming, first: number, second: number): Edit | null {
  if (claims.length >= MOST_CLAIMS) return null;
  return set(id, [...claims, ordered(Math.min(first, second), Math.max(first, second), 'high')]);
}

export const removeClaim = ({ id, claims }: Claiming, index: number): Edit =>
  set(
    id,
    claims.filter((_, i) => i !== index),
  );
