'use client';
import { useEffect, useState } from 'react';
import { parseEqualizerFile, writeEqualizerFile } from '@/core/formats';
import { bandsOf, findStrip, LAYOUTS } from '@/core/song';
import { type Desk, useDesk } from '../../window/desk/desk';
import { NameLine } from '../../kit/controls/name-line';
import { PanelBody, PanelLine, PanelRows } from '../../kit/controls/panel';
import { TextButton } from '../../kit/controls/button';
import { carryEqualizer } from '../../window/song/carry';
import { chosenBand, chosenStrips, useSelection, useStripFacts } from '../../window/song/selection';
import { chooseNewest, copyOf, putCopied, putEqualizer, type Copied } from '../../window/song/equalizer-edits';
import { useSongStore } from '../../window/song/song-store';
import { MatchSection } from './match-section';
import { usePresets, type Preset } from './presets-store';

const chosenIds = (desk: Desk) => chosenStrips(desk).map(({ id }) => id);

/** Equalizers to use again: saved ones, layouts, the curve of another track. */
export function ReusePanel() {
  return (
    <PanelBody aria-label="Reuse">
      <SavedSection />
      <LayoutSection />
      <MatchSection />
    </PanelBody>
  );
}

function SavedSection() {
  const desk = useDesk();
  const { presets, deleted, load, save, remove, restore } = usePresets();
  const strip = useStripFacts(useSelection((selection) => selection.stripId));
  const hasBands = useSongStore(({ state }) => {
    const chosen = findStrip(state.song, strip.id);
    return chosen !== undefined && bandsOf(chosen).length > 0;
  });
  const [wanted, setWanted] = useState('');
  useEffect(() => void load(), [load]);
  const found = presets.filter((preset) =>
    `${preset.name} ${preset.part}`.toLowerCase().includes(wanted.trim().toLowerCase()),
  );
  const part = strip.part ?? '';
  const keep = (name: string) => {
    const { equalizer } = chosenBand(desk);
    if (equalizer) void save({ name, part, equalizer: copyOf(equalizer).text });
  };
  return (
    <>
      <h2>Saved equalizers</h2>
      <NameLine
        label="Name for this equalizer"
        placeholder="Name for this equalizer"
        action="Save"
        isDisabled={!hasBands}
        onName={keep}
      />
      {presets.length > 4 && (
        <PanelLine>
          <input
            type="text"
            aria-label="Find a saved equalizer"
            placeholder="Find by name or part"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
        </PanelLine>
      )}
      {presets.length === 0 && <p>None yet. What is saved here can be used in every song.</p>}
      {presets.length > 0 && found.length === 0 && <p>None is called so.</p>}
      <PanelRows aria-label="Saved equalizers">
        {found.map((preset) => (
          <SavedRow key={preset.id} preset={preset} onRemove={() => void remove(preset)} />
        ))}
      </PanelRows>
      {deleted && (
        <p role="status">
          “{deleted.name}” was deleted. <TextButton onPress={() => void restore()}>Bring it back</TextButton>
        </p>
      )}
    </>
  );
}

function SavedRow({ preset, onRemove }: { preset: Preset; onRemove: () => void }) {
  const desk = useDesk();
  const copied: Copied = { kind: 'equalizer', text: preset.equalizer };
  const bands = parseEqualizerFile(preset.equalizer, preset.name).bands.length;
  return (
    <li
      draggable
      onDragStart={(event) => carryEqualizer(event.dataTransfer, copied)}
      data-hint="Drag it on a lane, or on one of several that are chosen"
    >
      <span title={preset.name}>
        {preset.name}{' '}
        <small>{[preset.part, `${bands} ${bands === 1 ? 'band' : 'bands'}`].filter(Boolean).join(', ')}</small>
      </span>
      <TextButton aria-label={`Use ${preset.name}`} onPress={() => putCopied(desk, chosenIds(desk), copied)}>
        Use
      </TextButton>
      <TextButton aria-label={`Delete ${preset.name}`} onPress={onRemove}>
        Delete
      </TextButton>
    </li>
  );
}

function LayoutSection() {
  const desk = useDesk();
  return (
    <>
      <h2>Layouts</h2>
      <PanelRows aria-label="Layouts">
        {LAYOUTS.map((layout) => {
          const file = { phase: 'minimum' as const, outputGainDb: 0, bands: [...layout.bands] };
          return (
            <li
              key={layout.id}
              draggable
              onDragStart={(event) =>
                carryEqualizer(event.dataTransfer, { kind: 'equalizer', text: writeEqualizerFile(file) })
              }
              data-hint={layout.what}
              title={layout.what}
            >
              <span>{layout.name}</span>
              <TextButton
                aria-label={`Use ${layout.name}`}
                onPress={() => {
                  useSongStore.of(desk).edit(putEqualizer(desk, chosenIds(desk), file), 'Use a layout');
                  chooseNewest(desk);
                }}
              >
                Use
              </TextButton>
            </li>
          );
        })}
      </PanelRows>
    </>
  );
}
