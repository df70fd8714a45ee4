import { handle } from '@/server/http/handle';
import { deletePreset } from '@/server/presets/store';

export const DELETE = handle<{ presetId: string }>((_, { presetId }) => deletePreset(presetId));
