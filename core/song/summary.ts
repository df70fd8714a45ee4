/** A line of the list of songs. */
export interface SongSummary {
  id: string;
  title: string;
  tracks: number;
  lengthSeconds: number;
  /** ISO 8601. */
  changedAt: string;
  /** Why it cannot be opened; null where it can. */
  problem: string | null;
}
