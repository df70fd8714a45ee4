/**
 * Changes of a part of a song: the fields that are named, to what they are set to. Of what lies within it ({@link WITHIN}) only the fields
 * that are named change too, so that two people who move different ends of one range both have what they set.
 */
type Fields = Record<string, unknown>;

/** What consists of fields of its own: what a band moves with, what is listened to, and a range. */
const WITHIN = new Set(['givesWay', 'key', 'range']);

const isFields = (value: unknown): value is Fields => typeof value === 'object' && value !== null;
const areWithin = (field: string, current: unknown, change: unknown): boolean =>
  WITHIN.has(field) && isFields(current) && isFields(change);

/** Makes changes to what they are for. */
export function applyChanges(current: object, changes: object): void {
  const own = current as Fields;
  for (const [field, change] of Object.entries(changes)) {
    if (areWithin(field, own[field], change)) applyChanges(own[field] as Fields, change as Fields);
    else own[field] = change;
  }
}

/** What takes changes back. */
export function inverseChanges<C extends object>(current: object, changes: C): C {
  const own = current as Fields;
  return Object.fromEntries(
    Object.entries(changes).map(([field, change]) => [
      field,
      areWithin(field, own[field], change) ? inverseChanges(own[field] as Fields, change as Fields) : own[field],
    ]),
  ) as C;
}

/** Changes that do what two do one after the other. */
export function joinChanges(first: object, second: object): object {
  const joined = { ...first } as Fields;
  for (const [field, change] of Object.entries(second)) {
    const before = joined[field];
    joined[field] = areWithin(field, before, change) ? joinChanges(before as Fields, change as Fields) : change;
  }
  return joined;
}

/** True where changes to a field set what it is. */
export function changesNothing(current: unknown, change: unknown): boolean {
  if (!isFields(current) || !isFields(change)) return current === change;
  return Object.entries(change).every(([field, value]) => changesNothing(current[field], value));
}
