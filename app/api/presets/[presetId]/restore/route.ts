import { handle } from '@/server/http/handle';
import { restorePreset } from '@/server/presets/store';

export const POST = handle<{ presetId: string }>((_, { presetId }) => restorePreset(presetId));
