import type { Edit } from './edit-schema';
import { batch } from './edits';
import { findStrip, keyOf, newBus, newProcessor, type Strip } from './model';
import { OWN_KEY } from './processor';
import type { Bus, ChainProcessor, Send, Song } from './schema';

/** How loud a new send is, dB. */
const NEW_SEND_DB = -12;

/** A bus that strips are sent to, and nothing runs into: it is heard beside the dry sound. */
export const isReturn = (song: Song, busId: string): boolean =>
  song.buses.some(({ id }) => id === busId) &&
  ![...song.tracks, ...song.buses].some(({ outputId }) => outputId === busId);

/** What a strip reaches by its output: these it cannot be sent to besides, nor can they be sent to it. */
function onward(song: Song, stripId: string): string[] {
  const ids: string[] = [];
  for (let strip = findStrip(song, stripId); strip && 'outputId' in strip; strip = findStrip(song, strip.outputId))
    ids.push(strip.outputId);
  return ids;
}

/** The buses that a strip can be sent to: all that it does not run into, and that do not run into it. */
export const sendTargets = (song: Song, stripId: string): Bus[] =>
  song.buses.filter(
    ({ id }) => id !== stripId && !onward(song, stripId).includes(id) && !onward(song, id).includes(stripId),
  );

/** The edit that sets the level of a send, or how it is tapped; one that is not there is made, and null takes it away. */
export function setSend(song: Song, stripId: string, busId: string, changes: Partial<Send> | null): Edit | null {
  const strip = findStrip(song, stripId);
  if (!strip || !('sends' in strip)) return null;
  const known = strip.sends.find((send) => send.busId === busId);
  const made: Send = { busId, gainDb: NEW_SEND_DB, tap: 'after-fader', ...known, enabled: true, ...changes };
  const sends =
    changes === null
      ? strip.sends.filter((send) => send.busId !== busId)
      : known
        ? strip.sends.map((send) => (send === known ? made : send))
        : [...strip.sends, made];
  return { kind: 'strip.set', stripId, changes: { sends } };
}

/** A new return with a reverb of which nothing but the room is heard, and sends to it from some strips. */
export function newReturn(
  song: Song,
  stripIds: readonly string[],
  wanted: { id: string; name: string; equalizerId: string; reverbId: string },
): Edit | null {
  const plain = newBus({ id: wanted.id, name: wanted.name, ink: song.buses.length });
  const reverb = { ...newProcessor('reverb', wanted.reverbId), dry: false, wetDb: 0 } as ChainProcessor;
  const chain = plain.chain.map((processor) => ({ ...processor, id: wanted.equalizerId }));
  const bus: Bus = { ...plain, chain: [reverb, ...chain] };
  const sends = stripIds.flatMap((stripId) => setSend(song, stripId, wanted.id, {}) ?? []);
  return batch([{ kind: 'bus.add', bus, index: song.buses.length }, ...sends]);
}

/** The edits after which nothing listens to a strip any more: what did is off, and listens to its own sound. */
export function endKeysOf(song: Song, stripId: string): Edit[] {
  const strips: Strip[] = [...song.tracks, ...song.buses, song.master];
  return strips.flatMap((strip) =>
    strip.chain.flatMap((processor): Edit[] => {
      if (processor.kind === 'equalizer')
        return processor.bands
          .filter((band) => band.givesWay?.key.stripId === stripId)
          .map(({ id }) => ({
            kind: 'band.set',
            stripId: strip.id,
            equalizerId: processor.id,
            bandId: id,
            changes: { givesWay: null },
          }));
      const key = keyOf(processor);
      if (!key || key.stripId !== stripId) return [];
      const changes = { enabled: false, key: { stripId: OWN_KEY } };
      return [
        {
          kind: 'processor.set',
          processorKind: processor.kind,
          stripId: strip.id,
          processorId: processor.id,
          changes,
        } as Edit,
      ];
    }),
  );
}
