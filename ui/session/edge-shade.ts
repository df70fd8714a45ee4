import { create } from 'zustand';
import type { FrequencyBand } from '@/core/measure';

/** What an end that is looked at could take of its track without being missed in the mix: shaded on its lane. */
interface EdgeShade {
  stripId: string | null;
  range: FrequencyBand | null;
}

const useShade = create<EdgeShade>(() => ({ stripId: null, range: null }));

export const shadeEdge = (stripId: string | null, range: FrequencyBand | null) => useShade.setState({ stripId, range });
export const useEdgeShade = (stripId: string) => useShade((shade) => (shade.stripId === stripId ? shade.range : null));
