import * as z from 'zod';
import data from './faults.json';

/** What is planted in the recordings: see faults.json. */
const faultSchema = z.strictObject({
  id: z.string(),
  track: z.string(),
  kind: z.enum([
    'rumble',
    'hum',
    'plosives',
    'sibilance',
    'resonance',
    'ring',
    'whistle',
    'hiss',
    'bleed',
    'shared-range',
  ]),
  what: z.string(),
  frequencyHz: z.number().optional(),
  lowHz: z.number().optional(),
  highHz: z.number().optional(),
  levelDb: z.number().optional(),
  gainDb: z.number().optional(),
  q: z.number().optional(),
  harmonics: z.number().optional(),
  decaySeconds: z.number().optional(),
  from: z.string().optional(),
  with: z.string().optional(),
});
export type Fault = z.infer<typeof faultSchema>;

export const FAULTS: readonly Fault[] = z.array(faultSchema).parse(data.faults);

type Figures = 'frequencyHz' | 'lowHz' | 'highHz' | 'levelDb' | 'gainDb' | 'q' | 'harmonics' | 'decaySeconds';

/** A fault by id, with the figures that its kind needs. @throws Error when one of them is missing */
export function fault<K extends Figures>(id: string, ...figures: K[]): Fault & Record<K, number> {
  const found = FAULTS.find((fault) => fault.id === id);
  if (!found || figures.some((figure) => found[figure] === undefined))
    throw new Error(`faults.json: ${id} lacks ${figures.join(', ')}`);
  return found as Fault & Record<K, number>;
}
