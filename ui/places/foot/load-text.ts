/** From this share of its time on the audio thread may not be ready when the next block is due. */
const TOO_MUCH = 0.95;

export const isTooMuch = (load: number): boolean => load >= TOO_MUCH;

const times = (count: number) => (count === 1 ? 'once' : `${count} times`);

/**
 * What the foot says of the audio thread.
 * @param load share of its time that it needs, 0 to 1
 * @param lateCount how often sound was not there in time
 * @param why it was not, the last time; empty where that is not known
 */
export function loadText(load: number, lateCount: number, why: string): string {
  const tooMuch = isTooMuch(load) ? ', too much for this machine' : '';
  const late = lateCount > 0 ? `, sound came too late ${times(lateCount)}${why && `: ${why}`}` : '';
  return `engine ${Math.round(load * 100)} %${tooMuch}${late}`;
}
