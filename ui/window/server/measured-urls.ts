import { ANALYSIS_VERSION } from '@/core/measure';
import { SUSPECTS_VERSION } from '@/core/suspects';

/** Where what was measured of a recording is had: with the version that this page reads, so that the browser may keep it for ever. */
const measured = (audioId: string, what: string, version: number) => `/api/audio/${audioId}/${what}?version=${version}`;

export const analysisUrl = (audioId: string) => measured(audioId, 'analysis', ANALYSIS_VERSION);
export const bandLevelsUrl = (audioId: string) => measured(audioId, 'band-levels', ANALYSIS_VERSION);
export const suspectsUrl = (audioId: string) => measured(audioId, 'suspects', SUSPECTS_VERSION);
