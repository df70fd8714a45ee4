import { plainProof, proofBytes, proofPage, PROOF_PEAKS, sizeWords, soundElement, type Proof } from '.';

const side = { gainDb: 0, peaks: Array.from({ length: PROOF_PEAKS }, (_, i) => i / PROOF_PEAKS) };
const proof: Proof = {
  title: 'Lantern </title><script>alert(1)</script>',
  notes: 'Listen to <b>the bell</b>\nat 0:12.',
  seconds: 42,
  parts: [{ name: 'Shore & bank', startSeconds: 10 }],
  items: [{ id: 'c"', name: '<Cello>', before: side, after: side, moves: ['bell 310 Hz'] }],
  date: '27 November 2026',
};

test('nothing that the song or the engineer brought is a tag of the page; its only program is its own', () => {
  const { head, foot } = proofPage(proof, 'void 0;"</script>"');
  const page = head + soundElement('c"', 'before', 'AAAA') + foot;
  expect(page).not.toContain('alert(1)</script>');
  expect(page).not.toContain('<b>the bell');
  expect(page).toContain('Listen to &#60;b&#62;the bell');
  expect(page.match(/<script/g)).toHaveLength(3);
  expect(page).toContain("default-src 'none'");
  expect(page).not.toMatch(/https?:/);
});

test('a page without a player says so; its facts are read back as they are', () => {
  const { head, foot } = proofPage(proof, null);
  expect(head).toContain('put in when it is made');
  expect(foot).not.toContain('<script>');
  const facts = JSON.parse(/id="facts">(.*)<\/script>/.exec(head)![1]) as object;
  expect(facts).toEqual({ seconds: 42, items: [{ id: 'c"', name: '<Cello>', gainsDb: { before: 0, after: 0 } }] });
});

test('how large it becomes is known before it is made, and whether it can be mailed', () => {
  expect(proofBytes({ ...plainProof, strips: ['a'] }, 60) / 1e6).toBeCloseTo(2 * 2 * 60 * 0.016 * (4 / 3), 1);
  expect(sizeWords(5e6)).toBe('5.0 MB');
  expect(sizeWords(30e6)).toContain('larger than most mailboxes take');
});
