import * as z from 'zod';
import { handle, readJson } from '@/server/http/handle';
import { listPresets, savePreset } from '@/server/presets/store';

const newPreset = z.strictObject({
  name: z.string().trim().min(1).max(120),
  part: z.string().trim().max(60),
  equalizer: z.string().max(1_000_000),
});

export const GET = handle(async () => ({ presets: await listPresets() }));

export const POST = handle(async (request) => savePreset(await readJson(request, newPreset)));
