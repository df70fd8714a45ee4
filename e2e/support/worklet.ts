import type { Page } from '@playwright/test';
import { designKernel, kernelRequests, compileSong, PIECE_FRAMES } from '@/core/engine';
import type { Song } from '@/core/song';
import { SharedState } from '@/audio/shared-state';

/**
 * What the real audio thread plays of a song from its start, left side, in an offline context.
 * @param samples of every recording, in place of what the server has of them
 */
export async function playedByWorklet(
  page: Page,
  song: Song,
  frames: number,
  samples: readonly number[] | null = null,
): Promise<number[]> {
  const kernels = kernelRequests(song).map((request) => {
    const { kernelId, kernel } = designKernel(request);
    const plain = (part: typeof kernel.tail) =>
      part && {
        count: part.count,
        direct: Array.from(part.direct),
        mirrored: part.mirrored && Array.from(part.mirrored),
      };
    return { kernelId, ...kernel, head: plain(kernel.head)!, tail: plain(kernel.tail) };
  });
  return page.evaluate(
    async ({ compiled, kernels, stateBytes, frames, samples, pieceFrames }) => {
      const context = new OfflineAudioContext(2, frames, compiled.rateHz);
      await context.audioWorklet.addModule('/audio/worklet.js');
      const unpacked = (bytes: ArrayBuffer, bits: number) => {
        if (bits === 32) return new Float32Array(bytes);
        const view = new DataView(bytes);
        const size = bits / 8;
        return Float32Array.from({ length: bytes.byteLength / size }, (_, n) =>
          bits === 16
            ? view.getInt16(2 * n, true) / 2 ** 15
            : (view.getInt8(3 * n + 2) * 2 ** 16 + view.getUint16(3 * n, true)) / 2 ** 23,
        );
      };
      const heardFrames = Math.min(frames, compiled.lengthFrames);
      const slots =
        compiled.tracks.reduce((sum, { channels }) => sum + channels, 0) * Math.ceil(heardFrames / pieceFrames);
      const memory = new SharedArrayBuffer(4 * pieceFrames * slots);
      let slot = 0;
      const node = new AudioWorkletNode(context, 'orvid-engine', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: { state: new SharedArrayBuffer(stateBytes), samples: memory },
      });
      node.connect(context.destination);
      for (const { audioId, channels } of compiled.tracks) {
        const { lengthFrames } = compiled;
        const table = new SharedArrayBuffer(4 * channels * Math.ceil(lengthFrames / pieceFrames));
        node.port.postMessage({ type: 'recording', audioId, channels, lengthFrames, table });
        for (let piece = 0; piece * pieceFrames < heardFrames; piece++) {
          const response = samples ? null : await fetch(`/api/pages/${audioId}.${piece}-${piece}`);
          const content = response
            ? unpacked(await response.arrayBuffer(), Number(response.headers.get('orvid-sample-bits')))
            : Float32Array.from(samples!.slice(piece * pieceFrames, (piece + 1) * pieceFrames));
          for (let c = 0; c < channels; c++) {
            const side = content.subarray((c * content.length) / channels, ((c + 1) * content.length) / channels);
            new Float32Array(memory, 4 * pieceFrames * slot, side.length).set(side);
            new Int32Array(table)[piece * channels + c] = ++slot;
          }
        }
      }
      for (const { kernelId, head, tail, ...shape } of kernels) {
        const typed = (part: typeof tail) =>
          part && {
            ...part,
            direct: Float64Array.from(part.direct),
            mirrored: part.mirrored && Float64Array.from(part.mirrored),
          };
        const kernel = { ...shape, head: typed(head), tail: typed(tail) };
        node.port.postMessage({ type: 'kernel', kernelId, kernel });
      }
      node.port.postMessage({ type: 'song', song: compiled });
      node.port.postMessage({ type: 'play' });
      await new Promise((done) => setTimeout(done, 500));
      return Array.from((await context.startRendering()).getChannelData(0));
    },
    {
      compiled: compileSong(song),
      kernels,
      stateBytes: new SharedState().buffer.byteLength,
      frames,
      samples,
      pieceFrames: PIECE_FRAMES,
    },
  );
}
