import { songOf } from '../../window/song/live-song';
import type { Work } from '../work';
import { claimless, proposeClaims } from './propose-claims';

/** The ranges in which tracks are meant to be heard. */
export const claimsWork: Work = {
  commands: (desk) => [
    {
      id: 'propose-claims',
      name: 'Propose claims where there are none',
      run: () => void proposeClaims(desk, claimless(songOf(desk))),
    },
  ],
};
