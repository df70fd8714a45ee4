import { asOrvidError } from '@/core/errors';
import { installDemo } from './install';

/** Prepares the data folder for `npm run demo`. */
async function main(): Promise<void> {
  await installDemo((line) => console.log(line));
}

main().then(
  () => process.exit(0),
  (error: unknown) => {
    console.error([asOrvidError(error).message, asOrvidError(error).kept].filter(Boolean).join(' '));
    process.exit(1);
  },
);
