'use client';
import { useEffect, useState } from 'react';
import {
  fileFormat,
  folded,
  parseChainFile,
  parseEqualizerFile,
  processorName,
  writeEqualizerFile,
} from '@/core/formats';
import { bandsOf, findStrip, LAYOUTS } from '@/core/song';
import { type Desk, useDesk } from '../../window/desk/desk';
import { NameLine } from '../../kit/controls/name-line';
import { PanelBody, PanelLine, PanelRows } from '../../kit/controls/panel';
import { TextButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { carryEqualizer } from '../../window/song/carry';
import { chosenBand, chosenStrips, useSelection, useStripFacts } from '../../window/song/selection';
import {
  chooseNewest,
  copyOf,
  copyOfChain,
  putCopied,
  putEqualizer,
  type Copied,
} from '../../window/song/equalizer-edits';
import { useSongStore } from '../../window/song/song-store';
import { useServerReturns } from '../../window/outbox/use-server-returns';
import { FileSection } from './file-section';
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
      <FileSection />
    </PanelBody>
  );
}

function SavedSection() {
  const desk = useDesk();
  const { presets: known, deleted, load, save, remove, restore } = usePresets();
  const presets = known ?? [];
  const returns = useServerReturns();
  const strip = useStripFacts(useSelection((selection) => selection.stripId));
  const hasBands = useSongStore(({ state }) => {
    const chosen = findStrip(state.song, strip.id);
    return chosen !== undefined && bandsOf(chosen).length > 0;
  });
  const hasChain = useSongStore(({ state }) => (findStrip(state.song, strip.id)?.chain.length ?? 0) > 0);
  const [wanted, setWanted] = useState('');
  useEffect(() => void load(), [load, returns]);
  const found = presets.filter((preset) => folded(`${preset.name} ${preset.part}`).includes(folded(wanted.trim())));
  const part = strip.part ?? '';
  const [what, setWhat] = useState<'equalizer' | 'chain'>('equalizer');
  const keep = (name: string) => {
    const { strip: chosen, equalizer } = chosenBand(desk);
    const copied = what === 'chain' ? copyOfChain(chosen.chain) : equalizer && copyOf(equalizer);
    if (copied) void save({ name, part, equalizer: copied.text });
  };
  return (
    <>
      <h2>Saved</h2>
      <NameLine
        label={`Name for this ${what}`}
        placeholder={`Name for this ${what}`}
        action="Save"
        isDisabled={what === 'chain' ? !hasChain : !hasBands}
        onName={keep}
      />
      <PanelLine>
        <Choice label="What is saved" value={what} options={SAVED} width={200} onChange={setWhat} />
      </PanelLine>
      {presets.length > 4 && (
        <PanelLine>
          <input
            type="text"
            aria-label="Find what was saved"
            placeholder="Find by name or part"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
        </PanelLine>
      )}
      {known?.length === 0 && <p>None yet. What is saved here can be used in every song.</p>}
      {presets.length > 0 && found.length === 0 && <p>None is called so.</p>}
      <PanelRows aria-label="Saved equalizers and chains">
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

/** What stands behind a saved text, and how it is put on a strip. */
function savedAs({ name, equalizer: text }: Preset): { copied: Copied; what: string } {
  if (fileFormat(text) === 'orvid.chain')
    return {
      copied: { kind: 'chain', text },
      what: parseChainFile(text, name).map(processorName).join(', '),
    };
  const bands = parseEqualizerFile(text, name).bands.length;
  return { copied: { kind: 'equalizer', text }, what: `${bands} ${bands === 1 ? 'band' : 'bands'}` };
}

const SAVED = [
  { id: 'equalizer', name: 'this equalizer' },
  { id: 'chain', name: 'the whole chain' },
] as const;

function SavedRow({ preset, onRemove }: { preset: Preset; onRemove: () => void }) {
  const desk = useDesk();
  const { copied, what } = savedAs(preset);
  return (
    <li
      draggable
      onDragStart={(event) => carryEqualizer(event.dataTransfer, copied)}
      data-hint="Drag it on a lane, or on one of several that are chosen"
    >
      <span title={preset.name}>
        {preset.name} <small>{[preset.part, what].filter(Boolean).join(', ')}</small>
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
