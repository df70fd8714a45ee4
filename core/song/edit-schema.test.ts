import { editSchema } from './edit-schema';

const to = { kind: 'strip.set', stripId: 'a' };
const issueOf = (edit: unknown) => {
  const [issue] = editSchema.safeParse(edit).error!.issues;
  return `${issue.path.join('.')}: ${issue.message}`;
};

test.each([
  [{ ...to, changes: { gainDb: 999 } }, /^changes\.gainDb: .*24/],
  [{ ...to, changes: { gian: 3 } }, /^changes: .*"gian"/],
  [
    {
      kind: 'batch',
      edits: [
        { ...to, changes: {} },
        { ...to, changes: { pan: 'left' } },
      ],
    },
    /^edits\.1\.changes\.pan: /,
  ],
  [
    { kind: 'processor.set', processorKind: 'gate', stripId: 'a', processorId: 'g', changes: { thresholdDb: 9 } },
    /^changes\.thresholdDb: /,
  ],
  [{ kind: 'strip.paint', stripId: 'a' }, /^kind: .*'strip\.set'/],
  [{ kind: 'batch', edits: [] }, /^edits: /],
])('what is wrong with an edit is named by its place: %j', (edit, issue) => {
  expect(issueOf(edit)).toMatch(issue);
});
