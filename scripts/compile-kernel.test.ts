import { execFileSync } from 'node:child_process';
import { KERNEL_BASE64 } from '@/core/engine/kernel/kernel-bytes';
import { PACKING_KERNEL_BASE64 } from '@/core/engine/packing/kernel-bytes';
import { MEASURE_KERNEL_BASE64 } from '@/core/measure/kernel/kernel-bytes';
import { PROCESSORS_KERNEL_BASE64 } from '@/core/processors/kernel/kernel-bytes';
import { RESAMPLE_KERNEL_BASE64 } from '@/core/resample/kernel/kernel-bytes';

const COMPILE_ALL = `
  const { compileKernel, KERNELS } = await import('./scripts/compile-kernel.mjs');
  const compiled = {};
  for (const name of Object.keys(KERNELS)) compiled[name] = (await compileKernel(name)).toString('base64');
  process.stdout.write(JSON.stringify(compiled));
`;

test('every compiled kernel is what its source compiles to', () => {
  const made = execFileSync(process.execPath, ['--input-type=module', '-e', COMPILE_ALL], { encoding: 'utf8' });
  expect(JSON.parse(made)).toEqual({
    engine: KERNEL_BASE64,
    measure: MEASURE_KERNEL_BASE64,
    packing: PACKING_KERNEL_BASE64,
    processors: PROCESSORS_KERNEL_BASE64,
    resample: RESAMPLE_KERNEL_BASE64,
  });
});
