'use client';
import { memo, useState } from 'react';
import { legalOrder } from '@/core/filters';
import { parseFrequency, writeFrequency } from '@/core/formats';
import {
  hasQ,
  newBandSettings,
  type Band,
  type BandChanges,
  type BandChannel,
  type BandType,
  type PassFamily,
} from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { tidyHz } from '../../kit/gestures/steps';
import { CHANNEL_NAMES, MONO_REASON } from '../../kit/signs/channels';
import { FAMILY_NAMES } from '../../kit/signs/families';
import { TYPE_NAMES } from '../../kit/signs/type-names';
import { changeBand, setBand } from '../../window/song/band-edits';
import { chosenBand, useSettledBand } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { songOf } from '../../window/song/live-song';
import type { PreviewOwner } from '../../window/song/song-state';

/** What is chosen of a band from a list. These parts stay as they are while the band is dragged. */

export const KindChoice = memo(function KindChoice({ type }: { type: BandType }) {
  const desk = useDesk();
  const choose = (next: BandType) => {
    const { strip, band } = chosenBand(desk);
    if (band) changeBand(desk, strip.id, band.id, asType(band, next), 'Change the kind of band');
  };
  return <Choice label="Kind of band" value={type} options={TYPE_NAMES} width={143} onChange={choose} />;
});

/** The family by what it does; the curve shows each while it is looked at, and the sound follows. */
export const FamilyChoice = memo(function FamilyChoice() {
  const [owner] = useState<PreviewOwner>({});
  const desk = useDesk();
  // What is previewed is not chosen yet.
  const family = useSettledBand()?.family ?? 'butterworth';
  const withFamily = (next: PassFamily) => {
    const { strip, band } = chosenBand(desk);
    return band
      ? setBand(songOf(desk), strip.id, band.id, { family: next, order: legalOrder(next, band.order) })
      : null;
  };
  return (
    <FigureRow>
      <span>Family</span>
      <Choice
        label="Family"
        value={family}
        options={FAMILY_NAMES}
        width={160}
        onPreview={(next) => useSongStore.of(desk).preview(owner, next && withFamily(next))}
        onChange={(next) => useSongStore.of(desk).edit(withFamily(next), 'Change the family')}
      />
    </FigureRow>
  );
});

const ENDS: readonly { id: Band['end']; name: string }[] = [
  { id: 'low', name: 'Lows' },
  { id: 'high', name: 'Highs' },
];

/** Which end of the spectrum a twin shelf is for. */
export const EndChoice = memo(function EndChoice({ end }: { end: Band['end'] }) {
  const desk = useDesk();
  const choose = (next: Band['end']) => {
    const { strip, band } = chosenBand(desk);
    if (band) changeBand(desk, strip.id, band.id, { end: next }, 'Change the end');
  };
  return (
    <FigureRow>
      <span>End</span>
      <Choice label="End" value={end} options={ENDS} width={96} onChange={choose} />
    </FigureRow>
  );
});

/** What a band acts on; a mono track has nothing to choose. */
export const ChannelChoice = memo(function ChannelChoice({
  isMono,
  channel,
}: {
  isMono: boolean;
  channel: BandChannel;
}) {
  const desk = useDesk();
  const choose = (next: BandChannel) => {
    const { strip, band } = chosenBand(desk);
    if (band) changeBand(desk, strip.id, band.id, { channel: next }, 'Change what a band acts on');
  };
  return (
    <FigureRow>
      <span>Acts on</span>
      {isMono ? (
        <em title={MONO_REASON} data-hint={MONO_REASON}>
          {channel === 'stereo' ? 'all of a mono track' : `nothing: ${channel} of a mono track`}
        </em>
      ) : (
        <Choice label="Acts on" value={channel} options={CHANNEL_NAMES} width={160} onChange={choose} />
      )}
    </FigureRow>
  );
});

type Fence = 'free' | 'fixed' | 'fenced';
const FENCES: readonly { id: Fence; name: string }[] = [
  { id: 'free', name: 'Free to move' },
  { id: 'fixed', name: 'Fixed where it is' },
  { id: 'fenced', name: 'Kept between' },
];
/** A new fence leaves this much on either side. */
const FENCE_RATIO = 2;

/** Where the band may go: anywhere, nowhere, or between two frequencies. */
export const FenceChoice = memo(function FenceChoice({ limits }: { limits: Band['limits'] }) {
  const desk = useDesk();
  const fence: Fence = !limits ? 'free' : limits.minHz === limits.maxHz ? 'fixed' : 'fenced';
  const change = (next: (hz: number) => Band['limits']) => {
    const { strip, band } = chosenBand(desk);
    if (band) changeBand(desk, strip.id, band.id, { limits: next(band.frequencyHz) }, 'Change where a band may go');
  };
  const fences: Record<Fence, (hz: number) => Band['limits']> = {
    free: () => null,
    fixed: (hz) => ({ minHz: hz, maxHz: hz }),
    fenced: (hz) => ({ minHz: tidyHz(hz / FENCE_RATIO), maxHz: tidyHz(hz * FENCE_RATIO) }),
  };
  const edge = (label: string, field: 'minHz' | 'maxHz') =>
    limits && (
      <ValueField
        label={label}
        shown={writeFrequency(limits[field])}
        parse={parseFrequency}
        example="80, 2.5k or A4"
        width={76}
        onCommit={(hz) => {
          const other = limits[field === 'minHz' ? 'maxHz' : 'minHz'];
          change(() => ({ minHz: Math.min(hz, other), maxHz: Math.max(hz, other) }));
        }}
      />
    );
  return (
    <>
      <FigureRow>
        <span>Place</span>
        <Choice
          label="Place"
          value={fence}
          options={FENCES}
          width={160}
          onChange={(next: Fence) => change(fences[next])}
        />
      </FigureRow>
      {fence === 'fenced' && (
        <FigureRow>
          <span />
          {edge('Lower fence', 'minHz')}
          {edge('Upper fence', 'maxHz')}
        </FigureRow>
      )}
    </>
  );
});

/** What changes with the kind: what the new kind has no use for stays, a width that would not suit it starts anew. */
function asType(band: Band, type: BandType): BandChanges {
  const keepsWidth = hasQ(band.type) && hasQ(type) && band.type !== 'notch' && type !== 'notch';
  return { type, ...(hasQ(type) && !keepsWidth && { q: newBandSettings(type, band.frequencyHz).q }) };
}
