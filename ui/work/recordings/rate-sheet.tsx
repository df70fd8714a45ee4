'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { asOrvidError } from '@/core/errors';
import { Button } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { useDesk } from '../../window/desk/desk';
import { tellError } from '../../window/notices/notices';
import { useSong } from '../../window/song/song-store';
import { beginAtRate, useRateQuestion } from './rate-question';
import { uploadsOf } from './upload';

const kilohertz = (hz: number) => `${hz / 1000} kHz`;

/** Asks whether a song is to have the rate of its first recordings, before any is converted. */
export function RateSheet() {
  const desk = useDesk();
  const router = useRouter();
  const { asked, ask } = useRateQuestion();
  const songRate = useSong((song) => song.rateHz);
  const [isBusy, setBusy] = useState(false);
  if (!asked) return null;
  const { files, rateHz } = asked;
  const convert = () => {
    ask(null);
    void uploadsOf(desk).convert(files);
  };
  const begin = async () => {
    setBusy(true);
    try {
      await beginAtRate(desk, asked, (path) => router.replace(path));
      ask(null);
    } catch (thrown) {
      tellError(desk, asOrvidError(thrown));
    }
    setBusy(false);
  };
  return (
    <Dialog title={`Recordings of ${kilohertz(rateHz)}`} isOpen onClose={() => ask(null)} width={460}>
      <p>
        {files.length === 1 ? 'This recording has' : `These ${files.length} recordings have`} {kilohertz(rateHz)}, the
        song {kilohertz(songRate)}. A song of their rate plays and renders them as they are; its rate cannot be changed
        once it has tracks.
      </p>
      <DialogActions>
        <Button onPress={convert}>Convert to {kilohertz(songRate)}</Button>
        <Button $strong autoFocus isDisabled={isBusy} onPress={() => void begin()}>
          Make the song {kilohertz(rateHz)}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
