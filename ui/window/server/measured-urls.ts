import { ANALYSIS_VERSION } from '@/core/measure';
import { SUSPECTS_VERSION } from '@/core/suspects';

/** Where what was measured of a recording is had: with the version that this page reads, so that the browser may keep it for ever. */
const measured = (audioId: string, what: string, version: number) => `/api/audio/${audioId}/${what}?version=${version}`;

export const analysisUrl = (audioId: string) => measured(audioId, 'analysis', ANALYSIS_VERSION);
/** Of all recordings of a song at once. */
export const overviewUrl = (songId: string) => `/api/songs/${songId}/overview`;
/** Of all recordings of a song between two frames, in so many entries. */
export const waveformsUrl = (songId: string, from: number, to: number, most: number) =>
  `/api/songs/${songId}/waveforms?from=${from}&to=${to}&most=${most}`;
/** Of several recordings at once. @param query which stretch, and in which rows */
export const bandLevelsUrl = (audioIds: readonly string[], query: string) =>
  `/api/band-levels/${audioIds.join(',')}?version=${ANALYSIS_VERSION}&${query}`;
/** A picture of a recording over time. @param query of which stretch and range, and how large */
export const overTimeUrl = (audioId: string, query: string) => `/api/audio/${audioId}/over-time?${query}`;
export const suspectsUrl = (audioId: string) => measured(audioId, 'suspects', SUSPECTS_VERSION);
