import { RuleTester, type Rule } from 'eslint';

const { default: readsInRender } = jest.requireActual<{ default: Rule.RuleModule }>('./reads-in-render.mjs');

new RuleTester().run('reads-in-render', readsInRender, {
  valid: [
    'function Panel() { const desk = useDesk(); const song = useSong((now) => now); return song.title; }',
    'function Panel() { const desk = useDesk(); return { onPress: () => remove(songOf(desk)) }; }',
    'function Panel() { const desk = useDesk(); useEffect(() => { useX.of(desk).look(); }, [desk]); }',
    'function words(desk) { return songOf(desk).title; }',
    'const Panel = () => { const desk = useDesk(); const marks = useMarks(desk); return marks; };',
    { code: 'function Panel() { return uploadsOf(desk); }', options: [{ except: ['uploadsOf'] }] },
  ],
  invalid: [
    'function Panel() { const desk = useDesk(); return songOf(desk).title; }',
    'function Panel() { const { edit } = useX.of(desk); return edit; }',
    'const Panel = () => spotText(desk, 3);',
    'function usePanel() { return sourcesFor(desk, 1); }',
    'const Panel = memo(function Panel() { return documentOf(desk); });',
    'const Panel = memo(() => documentOf(desk));',
    'function Panel() { return useMemo(() => songOf(desk).title, [desk]); }',
  ].map((code) => ({ code, errors: [{ messageId: 'read' }] })),
});
