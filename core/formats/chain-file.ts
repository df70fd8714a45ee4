import * as z from 'zod';
import { OrvidError } from '../errors';
import { anyProcessorSchema, chainSchema, type Chain, type ChainProcessor } from '../song/schema';

/** A processor, or a whole chain, as text: what is copied, and what is saved under a name. */
const processorFile = z.strictObject({
  format: z.literal('orvid.processor'),
  version: z.literal(1),
  processor: anyProcessorSchema,
});
const chainFile = z.strictObject({
  format: z.literal('orvid.chain'),
  version: z.literal(1),
  chain: chainSchema.min(1),
});

export const writeProcessorFile = (processor: ChainProcessor): string =>
  JSON.stringify({ format: 'orvid.processor', version: 1, processor }, null, 2);

export const writeChainFile = (chain: Chain): string =>
  JSON.stringify({ format: 'orvid.chain', version: 1, chain }, null, 2);

/** What a text says of itself; null for what says nothing. */
export function fileFormat(text: string): string | null {
  try {
    const { format } = JSON.parse(text) as { format?: unknown };
    return typeof format === 'string' ? format : null;
  } catch {
    return null;
  }
}

/** The processor that a text stands for; null for another text. */
export function processorIn(text: string): ChainProcessor | null {
  if (fileFormat(text) !== 'orvid.processor') return null;
  return processorFile.safeParse(JSON.parse(text)).data?.processor ?? null;
}

/** @param fileName names the text in messages @throws OrvidError `invalid-input` with the field and what is wrong with it */
export function parseChainFile(text: string, fileName: string): Chain {
  const refuse = (field: string, problem: string) =>
    new OrvidError('invalid-input', `${fileName}: ${field}: ${problem}. Nothing was read from it.`);
  const format = fileFormat(text);
  if (format !== 'orvid.chain') throw refuse('format', `expected "orvid.chain", found ${JSON.stringify(format)}`);
  const parsed = chainFile.safeParse(JSON.parse(text));
  if (parsed.success) return parsed.data.chain;
  const [issue] = parsed.error.issues;
  throw refuse(issue.path.join('.') || 'content', issue.message);
}
