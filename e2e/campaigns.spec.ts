import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { expect, test } from '@playwright/test';

/** A little of the two campaigns of bench/: what is found there is a fault here. */

const campaign = async (name: string, ...figures: number[]) => {
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['scripts/run.mjs', `bench/${name}.ts`, ...figures.map(String)],
    { timeout: 100_000 },
  ).catch((failed: { stdout: string; stderr: string }) => ({ stdout: `${failed.stdout}\n${failed.stderr}` }));
  return stdout;
};

test('kills amid edits, imports and renders: nothing is lost, half-made or unanswered', async () => {
  test.setTimeout(120_000);
  expect(await campaign('kill', 2, 7)).toContain(' 0 faults.');
});

test('damaged files of every format come in or are refused by name', async () => {
  test.setTimeout(120_000);
  expect(await campaign('fuzz', 5, 7)).toContain(' 0 faults.');
});
