/** @jest-environment jsdom */
import { showMark, showText } from './show';

test('what stays as it is is not touched', async () => {
  const element = document.createElement('div');
  const changes: string[] = [];
  new MutationObserver((records) => changes.push(...records.map(({ type }) => type))).observe(element, {
    attributes: true,
    childList: true,
  });
  const show = async (text: string, over: string) => {
    showText(element, text);
    showMark(element, 'over', over);
    await Promise.resolve();
    return changes.splice(0);
  };
  expect(await show('engine 0 %', 'false')).toEqual(['childList', 'attributes']);
  expect(await show('engine 0 %', 'false')).toEqual([]);
  expect(await show('engine 1 %', 'false')).toEqual(['childList']);
  expect(await show('engine 1 %', 'true')).toEqual(['attributes']);
  expect(element.outerHTML).toBe('<div data-over="true">engine 1 %</div>');
});
