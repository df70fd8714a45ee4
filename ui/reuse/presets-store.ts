import { create } from 'zustand';
import { asOrvidError } from '@/core/errors';
import { request, useSongStore } from '../song';

/** An equalizer that was saved under a name, as the server has it. */
export interface Preset {
  id: string;
  name: string;
  part: string;
  equalizer: string;
}

interface PresetsStore {
  presets: readonly Preset[];
  /** The one that was deleted last, as long as it can be brought back here. */
  deleted: Preset | null;
  load: () => Promise<void>;
  save: (preset: Omit<Preset, 'id'>) => Promise<void>;
  remove: (preset: Preset) => Promise<void>;
  restore: () => Promise<void>;
}

export const usePresets = create<PresetsStore>((set, get) => {
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
      set({ presets: (await request<{ presets: Preset[] }>('GET', '/api/presets')).presets });
    } catch (thrown) {
      const error = asOrvidError(thrown);
      useSongStore.getState().tell([error.message, error.kept].filter(Boolean).join(' '), 'error');
    }
  };
  return {
    presets: [],
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
