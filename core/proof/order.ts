import * as z from 'zod';
import { spanSchema } from '../renders';

/** What the sound of a proof may have, kbit/s. */
export const PROOF_KBPS = [96, 128, 192] as const;
export type ProofKbps = (typeof PROOF_KBPS)[number];
export const MOST_PROOF_TRACKS = 30;
/** A proof that is longer than this is no page any more. */
export const MOST_PROOF_BYTES = 400e6;

/** What is shown to the client: the mix and some tracks, without and with what was done. */
export const proofOrderSchema = z.strictObject({
  /** Tracks, groups and returns, each by itself, below the mix. */
  strips: z.array(z.string().min(1).max(40)).max(MOST_PROOF_TRACKS),
  /** Null for the whole song. */
  span: spanSchema.nullable(),
  notes: z.string().max(4000),
  /** Whether what was done is told in words. */
  tellsMoves: z.boolean(),
  kbps: z.union(PROOF_KBPS.map((kbps) => z.literal(kbps))),
});
export type ProofOrder = z.infer<typeof proofOrderSchema>;

export const plainProof: ProofOrder = { strips: [], span: null, notes: '', tellsMoves: true, kbps: 128 };

/** What the page itself takes, without its sound. */
const PAGE_BYTES = 30_000;

/** About how large a proof becomes: sound as text takes four thirds of its bytes. */
export const proofBytes = ({ strips, kbps }: ProofOrder, seconds: number): number =>
  PAGE_BYTES + 2 * (1 + strips.length) * seconds * (kbps * 125) * (4 / 3);
