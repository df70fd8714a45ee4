'use client';
import { PLACES, type PlaceId } from '@/core/elsewhere';
import { useDesk } from '../../window/desk/desk';
import { Choice } from '../../kit/controls/choice';
import { useListening } from '../../window/sound/listening';
import { goElsewhere } from './elsewhere-store';

const OPTIONS = [{ id: 'here', name: 'Here' }, ...PLACES] as const;

/** Where the mix is heard. */
export function ElsewhereChoice() {
  const desk = useDesk();
  const elsewhere = useListening((listening) => listening.elsewhere);
  return (
    <span data-hint="Where the mix is heard: for the ear alone, never rendered, at matched loudness · H, Shift H the next">
      <Choice<PlaceId | 'here'>
        label="Where the mix is heard"
        value={elsewhere ?? 'here'}
        options={OPTIONS}
        width={96}
        onChange={(id) => goElsewhere(desk, id === 'here' ? null : id)}
      />
    </span>
  );
}
