import { COUNTED_DB, type Observed } from '@/core/mix';
import { clipped, clipperCurve } from '@/core/processors';
import type { Clipper } from '@/core/song';
import { SANS, type Tokens } from '../../kit/theme/tokens';

const LOWEST_DB = -48;
const HIGHEST_DB = 12;
const FOOT = 18;

/** Places of the picture of a clipper: what goes in along the foot, what comes out up the side, both in dB. */
export const clipperScale = (width: number, height: number) => {
  const share = (db: number) => (Math.max(LOWEST_DB, Math.min(HIGHEST_DB, db)) - LOWEST_DB) / (HIGHEST_DB - LOWEST_DB);
  return {
    x: (db: number) => 44 + share(db) * (width - 60),
    y: (db: number) => height - FOOT - share(db) * (height - FOOT - 8),
    dbAtY: (y: number) => LOWEST_DB + ((height - FOOT - y) / (height - FOOT - 8)) * (HIGHEST_DB - LOWEST_DB),
  };
};

/** How often each amplitude occurs before, along the foot, and after, up the side; the curve between them. */
export function drawClipper(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  { clipper, observed, ink }: { clipper: Clipper; observed: Observed | null; ink: string },
  tokens: Tokens,
): void {
  const { x, y } = clipperScale(width, height);
  context.font = `400 11px ${SANS}`;
  context.lineWidth = 1;
  for (let db = LOWEST_DB; db <= HIGHEST_DB; db += 12) {
    context.strokeStyle = db === 0 ? tokens.rule : tokens.grid;
    context.beginPath();
    context.moveTo(Math.round(x(db)) + 0.5, 8);
    context.lineTo(Math.round(x(db)) + 0.5, height - FOOT);
    context.moveTo(44, Math.round(y(db)) + 0.5);
    context.lineTo(width - 16, Math.round(y(db)) + 0.5);
    context.stroke();
    context.fillStyle = tokens.soft;
    context.textAlign = 'center';
    context.fillText(db > 0 ? `+${db}` : db === 0 ? '0 dBFS' : `−${-db}`, x(db), height - 5);
  }
  if (observed) {
    const bars = (counts: Float32Array, draw: (db: number, share: number) => void) => {
      const most = Math.max(1, ...counts);
      counts.forEach((count, bin) => {
        if (COUNTED_DB.lowest + bin >= LOWEST_DB) draw(COUNTED_DB.lowest + bin, count / most);
      });
    };
    context.globalAlpha = 0.25;
    context.fillStyle = tokens.soft;
    bars(observed.before.counts, (db, share) => {
      const tall = share * (height - FOOT) * 0.45;
      context.fillRect(x(db), height - FOOT - tall, x(db + 1) - x(db), tall);
    });
    context.fillStyle = ink;
    context.globalAlpha = 0.35;
    bars(observed.after.counts, (db, share) =>
      context.fillRect(44, y(db + 1), share * (width - 60) * 0.3, y(db) - y(db + 1)),
    );
    context.globalAlpha = 1;
  }
  if (observed?.added) drawAdded(context, width, height, observed.added, tokens);
  const curve = clipperCurve(clipper.ceilingDb, clipper.bend);
  context.strokeStyle = tokens.ink;
  context.lineWidth = 2;
  context.beginPath();
  for (let db = LOWEST_DB; db <= HIGHEST_DB; db += 0.25) {
    const out = clipped(10 ** ((db + clipper.driveDb) / 20), curve);
    const place = [x(db), y(20 * Math.log10(Math.max(1e-6, out)))] as const;
    if (db === LOWEST_DB) context.moveTo(...place);
    else context.lineTo(...place);
  }
  context.stroke();
  context.lineWidth = 1;
}

/** Where what is added stands, from the right and the foot, and how low its foot lies beside what comes out. */
const ADDED = { right: 18, above: 22, wide: 17, tall: 44, lowestDb: -72 };

/** What the bend adds, octave by octave, beside all that comes out. */
function drawAdded(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  added: NonNullable<Observed['added']>,
  tokens: Tokens,
): void {
  const { right, above, wide, tall, lowestDb } = ADDED;
  const x = width - right - wide * added.length;
  const foot = height - FOOT - above;
  context.fillStyle = tokens.soft;
  context.textAlign = 'right';
  context.fillText('adds, dB beside what comes out', width - right, foot - tall - 18);
  context.strokeStyle = tokens.rule;
  context.beginPath();
  context.moveTo(x, foot + 0.5);
  context.lineTo(width - right, foot + 0.5);
  context.stroke();
  context.textAlign = 'center';
  added.forEach(({ hz, db }, i) => {
    const high = Math.max(0, (1 - db / lowestDb) * tall);
    const left = x + i * wide;
    context.fillStyle = tokens.accent;
    context.globalAlpha = 0.55;
    context.fillRect(left + 2, foot - high, wide - 4, high);
    context.globalAlpha = 1;
    if (i % 2 === 1) return;
    context.fillStyle = tokens.soft;
    context.fillText(hz < 1000 ? String(hz) : `${hz / 1000}k`, left + wide / 2, foot + 13);
    if (high > 0) context.fillText(`−${Math.round(-db)}`, left + wide / 2, foot - high - 3);
  });
}
