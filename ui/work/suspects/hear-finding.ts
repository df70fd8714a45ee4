import type { FrequencyBand } from '@/core/measure';
import type { BandSettings } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { addBands, chooseNewest } from '../../window/song/equalizer-edits';
import { useSongStore } from '../../window/song/song-store';
import { useListening } from '../../window/sound/listening';
import { useSession } from '../../window/sound/session-store';

/** The finding that is heard now. */
export const useHeardFinding = deskStore<{ heard: FrequencyBand | null }>(() => () => ({ heard: null }));

/** Only the finding's range of the track is heard, half an octave wide at least. */
export function hearFinding(desk: Desk, stripId: string, finding: FrequencyBand): void {
  const half = Math.max(2 ** 0.25, Math.sqrt(finding.highHz / finding.lowHz));
  const middle = Math.sqrt(finding.lowHz * finding.highHz);
  useListening.of(desk).setEarshot({
    stripId,
    lowHz: Math.max(20, middle / half),
    highHz: Math.min(20000, middle * half),
  });
  useHeardFinding.api(desk).setState({ heard: finding });
  const { isPlaying, togglePlay } = useSession.of(desk);
  if (!isPlaying) togglePlay();
}

export function endFinding(desk: Desk): void {
  if (!useHeardFinding.of(desk).heard) return;
  useListening.of(desk).setEarshot(null);
  useHeardFinding.api(desk).setState({ heard: null });
}

/** Takes what answers a finding; it is ordinary bands from then on. */
export function takeFinding(desk: Desk, stripId: string, answer: readonly BandSettings[], note: string): void {
  endFinding(desk);
  const bands = answer.map((band) => ({ ...band, note }));
  useSongStore.of(desk).edit(addBands(desk, [stripId], bands), 'Take a suspect');
  chooseNewest(desk);
}
