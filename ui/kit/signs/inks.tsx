/** The pattern of each ink's line, so that colour alone need not tell curves apart: dashes in pixels. */
export const INK_DASHES: readonly (readonly number[])[] = [
  [],
  [8, 3],
  [2, 3],
  [8, 3, 2, 3],
  [14, 4],
  [4, 4],
  [8, 3, 2, 3, 2, 3],
  [1, 4],
  [14, 3, 4, 3],
];

/** A stretch of an ink's line. */
export function LineSample({ ink }: { ink: number }) {
  return (
    <svg width={46} height={8} aria-hidden>
      <line
        x1={0}
        x2={46}
        y1={4}
        y2={4}
        stroke={`var(--ink-${ink})`}
        strokeWidth={2}
        strokeDasharray={INK_DASHES[ink].join(' ')}
      />
    </svg>
  );
}
