import { deskStore } from '../../window/desk/desk';
import { asOrvidError } from '@/core/errors';
import { request } from '../../window/server/request';
import { tell } from '../../window/notices/notices';

/** An equalizer, or a whole chain, that was saved under a name, as the server has it. */
export interface Preset {
  id: string;
  name: string;
  part: string;
  equalizer: string;
}

interface PresetsStore {
  /** Null until they are known. */
  presets: readonly Preset[] | null;
  /** The one that was deleted last, as long as it can be brought back here. */
  deleted: Preset | null;
  load: () => Promise<void>;
  save: (preset: Omit<Preset, 'id'>) => Promise<void>;
  remove: (preset: Preset) => Promise<void>;
  restore: () => Promise<void>;
}

export const usePresets = deskStore<PresetsStore>((desk) => (set, get) => {
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
      set({ presets: (await request<{ presets: Preset[] }>('GET', '/api/presets')).presets });
    } catch (thrown) {
      const error = asOrvidError(thrown);
      tell(desk, [error.message, error.kept].filter(Boolean).join(' '), 'error');
    }
  };
  return {
    presets: null,
    deleted: null,
    load: () => attempt(async () => undefined),
    save: (preset) => attempt(() => request('POST', '/api/presets', preset)),
    remove: (preset) =>
      attempt(async () => {
        await request('DELETE', `/api/presets/${preset.id}`);
        set({ deleted: preset });
      }),
    restore: () =>
      attempt(async () => {
        const { deleted } = get();
        if (deleted) await request('POST', `/api/presets/${deleted.id}/restore`);
        set({ deleted: null });
      }),
  };
});
