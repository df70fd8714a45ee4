import type { FrequencyBand } from '@/core/measure';
import { deskStore, type Desk } from '../../window/desk/desk';

/** What an end that is looked at could take of its track without being missed in the mix: shaded on its lane. */
interface EdgeShade {
  stripId: string | null;
  range: FrequencyBand | null;
}

export const useEdgeShade = deskStore<EdgeShade>(() => () => ({ stripId: null, range: null }));

export const shadeEdge = (desk: Desk, stripId: string | null, range: FrequencyBand | null) =>
  useEdgeShade.api(desk).setState({ stripId, range });
