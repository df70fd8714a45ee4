'use client';
import { useState } from 'react';
import { MenuTrigger } from 'react-aria-components';
import { describeSettings } from '@/core/passages';
import { batch, findStrip, MOST_DRAFTS, newId, settingsOf, type Draft, type Edit } from '@/core/song';
import { type Desk, useDesk } from '../../window/desk/desk';
import { Button, TextButton } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';
import { NameLine } from '../../kit/controls/name-line';
import { PanelRows, WordLines } from '../../kit/controls/panel';
import { TextField } from '../../kit/controls/text-field';
import { useListening } from '../../window/sound/listening';
import { chosenStrips } from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { useBlind } from './blind-store';
import { takeDraft } from './take-draft';
import { songOf } from '../../window/song/live-song';

/** The edit that gives the chosen strips the settings that a draft has of them. */
function copyFromDraft(desk: Desk, draft: Draft): Edit | null {
  return batch(
    chosenStrips(desk).flatMap((strip): Edit[] => {
      const other = findStrip({ ...songOf(desk), ...draft.settings }, strip.id);
      if (!other) return [];
      const edits: Edit[] = [{ kind: 'chain.set', stripId: strip.id, chain: other.chain }];
      if ('outputId' in other) {
        const { gainDb, pan, polarityInverted, midDb, sideDb, muted } = other;
        edits.push({
          kind: 'strip.set',
          stripId: strip.id,
          changes: {
            ...{ gainDb, pan, polarityInverted, midDb, sideDb, muted },
            ...('delayMs' in other && { delayMs: other.delayMs }),
          },
        });
      } else edits.push({ kind: 'strip.set', stripId: strip.id, changes: { gainDb: other.gainDb } });
      return edits;
    }),
  );
}

/** Named complete states of the song. */
export function DraftSection() {
  const desk = useDesk();
  const drafts = useSong((song) => song.drafts);
  const heardId = useListening((listening) => listening.draftId);
  const hearDraft = useListening((listening) => listening.hearDraft);
  const edit = useSongStore((store) => store.edit);
  const [compared, setCompared] = useState<Draft | null>(null);
  const [renamed, setRenamed] = useState<Draft | null>(null);
  const act = (draft: Draft) => (action: React.Key) => {
    if (action === 'compare') setCompared(draft);
    if (action === 'rename') setRenamed(draft);
    if (action === 'blind') useBlind.of(desk).open({ kind: 'draft', draftId: draft.id });
    if (action === 'copy') edit(copyFromDraft(desk, draft), `Copy from “${draft.name}”`);
    if (action === 'remove') edit({ kind: 'draft.remove', draftId: draft.id }, 'Remove a draft');
  };
  return (
    <>
      <h2>Drafts</h2>
      <NameLine
        label="Name for this draft"
        placeholder="Name for this state"
        action="Keep"
        isDisabled={drafts.length >= MOST_DRAFTS}
        onName={(name) => edit({ kind: 'draft.keep', draftId: newId(10), name }, 'Keep a draft')}
      />
      {drafts.length === 0 && <p>None yet. A draft is everything as it is now, to come back to.</p>}
      <PanelRows aria-label="Drafts">
        {drafts.map((draft) => (
          <li key={draft.id}>
            <span title={draft.name}>{draft.name}</span>
            <TextButton
              aria-label={`Hear ${draft.name}`}
              aria-pressed={heardId === draft.id}
              data-hint="Heard in place of the song, at matched loudness, without stopping; the song stays as it is"
              onPress={() => hearDraft(heardId === draft.id ? null : draft.id)}
            >
              {heardId === draft.id ? 'Back' : 'Hear'}
            </TextButton>
            <TextButton
              aria-label={`Take ${draft.name}`}
              data-hint="The song becomes this draft; undo brings back what it was"
              onPress={() => takeDraft(desk, draft)}
            >
              Take
            </TextButton>
            <MenuTrigger>
              <TextButton aria-label={`What to do with ${draft.name}`}>More…</TextButton>
              <MenuPanel placement="bottom end">
                <Menu aria-label={`What to do with ${draft.name}`} onAction={act(draft)}>
                  <MenuItem id="compare">What differs…</MenuItem>
                  <MenuItem id="blind">Compare blind…</MenuItem>
                  <MenuItem id="copy">Copy the chosen track from it</MenuItem>
                  <MenuItem id="rename">Rename…</MenuItem>
                  <MenuItem id="remove">Remove</MenuItem>
                </Menu>
              </MenuPanel>
            </MenuTrigger>
          </li>
        ))}
      </PanelRows>
      <Dialog
        title={`From “${compared?.name ?? ''}” to now`}
        isOpen={compared !== null}
        onClose={() => setCompared(null)}
      >
        {compared && <Differences draft={compared} />}
        <DialogActions>
          <Button $strong onPress={() => setCompared(null)}>
            Close
          </Button>
        </DialogActions>
      </Dialog>
      {renamed && (
        <RenameDialog
          draft={renamed}
          onDone={(next) => {
            if (next) edit({ kind: 'draft.rename', draftId: renamed.id, name: next }, 'Rename a draft');
            setRenamed(null);
          }}
        />
      )}
    </>
  );
}

function Differences({ draft }: { draft: Draft }) {
  const document = useSongStore(({ state }) => state.document);
  const lines = describeSettings(draft.settings, settingsOf(document));
  if (lines.length === 0) return <p>Nothing differs.</p>;
  return (
    <WordLines>
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </WordLines>
  );
}

function RenameDialog({ draft, onDone }: { draft: Draft; onDone: (name: string | null) => void }) {
  const [name, setName] = useState(draft.name);
  const isEmpty = name.trim() === '';
  return (
    <Dialog title="Rename the draft" isOpen onClose={() => onDone(null)}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (!isEmpty) onDone(name.trim());
        }}
      >
        <TextField label="Name" value={name} onChange={setName} maxLength={120} autoFocus />
        <DialogActions>
          <Button onPress={() => onDone(null)}>Leave it</Button>
          <Button $strong type="submit" isDisabled={isEmpty}>
            Rename
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
