import { asOrvidError } from '@/core/errors';
import type { Desk } from '../../window/desk/desk';
import { tellError } from '../../window/notices/notices';
import { whenSaved } from '../../window/outbox/link';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { request } from '../../window/server/request';
import { useRendering } from './rendering-store';

/** Packs the song with its recordings; the sheet shows how far it is, and the file. */
export async function packSong(desk: Desk): Promise<void> {
  try {
    await whenSaved(desk);
    const { job } = await request<{ job: JobView }>('POST', `/api/songs/${desk.songId}/bundle`);
    if (!useJobs.of(desk).jobs[job.id]) useJobs.of(desk).put(job);
    useRendering.of(desk).setOpen(true);
  } catch (thrown) {
    tellError(desk, asOrvidError(thrown));
  }
}
