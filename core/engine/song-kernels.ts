import type { Song } from '../song';
import { kernelRequests } from './compile-chain';
import { designKernel, type DesignedKernel } from './kernels';

/**
 * Designs every kernel that a song needs, those of its passages among them. All of one equalizer are as long as its longest, so that it is as
 * late everywhere, and the sound can go over from one to the other.
 */
export function songKernels(song: Song): DesignedKernel[] {
  const requests = kernelRequests(song);
  const designed = requests.map((request) => designKernel(request));
  const longest = new Map<string, number>();
  requests.forEach(({ key }, i) => longest.set(key, Math.max(longest.get(key) ?? 0, designed[i].taps)));
  return requests.map((request, i) => {
    const taps = longest.get(request.key)!;
    return designed[i].taps === taps ? designed[i] : designKernel(request, taps);
  });
}
