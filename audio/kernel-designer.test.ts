import type { KernelRequest } from '@/core/engine';
import { KernelDesigner, type SizedKernel } from './kernel-designer';

const request = (kernelId: string): KernelRequest => ({
  key: 'e',
  kernelId,
  equalizer: { bands: [], outputGainDb: 0 },
  channels: 1,
  rateHz: 48000,
});

/** A designer whose kernels are ready when the test says so. */
function slowDesigner() {
  const asked: string[] = [];
  const ready: ((isDesigned: boolean) => void)[] = [];
  const designed: string[] = [];
  const errors: string[] = [];
  const designer = new KernelDesigner(
    ({ kernelId }) => {
      asked.push(kernelId);
      return new Promise<SizedKernel>((resolve, reject) => {
        ready.push((isDesigned) =>
          isDesigned ? resolve({ kernelId, taps: 2, worstErrorDb: 0 } as SizedKernel) : reject(new Error('no memory')),
        );
      });
    },
    ({ kernelId }) => designed.push(kernelId),
    (message) => errors.push(message),
  );
  const finish = async (isDesigned = true) => {
    ready.shift()!(isDesigned);
    await new Promise((done) => setTimeout(done));
  };
  return { designer, asked, designed, errors, finish };
}

test('every kernel that is wanted is designed, one after the other, in their order', async () => {
  const { designer, asked, designed, finish } = slowDesigner();
  designer.want(['a', 'b', 'c'].map(request));
  expect(asked).toEqual(['a']);
  for (let i = 0; i < 3; i++) await finish();
  expect(designed).toEqual(['a', 'b', 'c']);
});

test('of what waits only the latest state is designed, and what is being designed is not begun again', async () => {
  const { designer, designed, finish } = slowDesigner();
  designer.want(['a', 'b', 'c'].map(request));
  designer.want(['a', 'd', 'e'].map(request));
  for (let i = 0; i < 3; i++) await finish();
  expect(designed).toEqual(['a', 'd', 'e']);
  designer.want([request('f')]);
  await finish();
  expect(designed).toEqual(['a', 'd', 'e', 'f']);
});

test('one that cannot be designed is told of, and the next follow', async () => {
  const { designer, designed, errors, finish } = slowDesigner();
  designer.want(['a', 'b'].map(request));
  await finish(false);
  await finish();
  expect(errors).toEqual(['Linear phase could not be worked out (no memory).']);
  expect(designed).toEqual(['b']);
});
