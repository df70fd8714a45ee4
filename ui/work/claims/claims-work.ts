import { groupsOf } from '@/core/song';
import { songOf } from '../../window/song/live-song';
import type { Work } from '../work';
import { proposeClaims } from './claims-section';

/** The ranges in which tracks are meant to be heard. */
export const claimsWork: Work = {
  commands: (desk) => [
    {
      id: 'propose-claims',
      name: 'Propose claims where there are none',
      run: () => {
        const song = songOf(desk);
        const all = [...song.tracks, ...groupsOf(song).map(({ bus }) => bus)];
        const without = all.filter(({ claims }) => claims.length === 0);
        void proposeClaims(
          desk,
          without.map(({ id }) => id),
        );
      },
    },
  ],
};
