/** @jest-environment jsdom */
import { act, fireEvent, render, screen } from '@testing-library/react';
import { Tab, TabList, TabPanel, Tabs } from 'react-aria-components';
import { English } from './english';

// jsdom has none; names here need no escaping.
Object.assign(globalThis, { CSS: { escape: (name: string) => name } });

test('in a browser whose language runs from right to left, the right arrow goes to the tab on the right', () => {
  render(
    <English>
      <Tabs>
        <TabList aria-label="Side">
          {['Track', 'Overlaps', 'Edge'].map((name) => (
            <Tab key={name} id={name}>
              {name}
            </Tab>
          ))}
        </TabList>
        {['Track', 'Overlaps', 'Edge'].map((name) => (
          <TabPanel key={name} id={name} />
        ))}
      </Tabs>
    </English>,
  );
  jest.spyOn(navigator, 'language', 'get').mockReturnValue('he-IL');
  act(() => void window.dispatchEvent(new Event('languagechange')));
  const first = screen.getByRole('tab', { name: 'Track' });
  act(() => first.focus());
  fireEvent.keyDown(first, { key: 'ArrowRight' });
  expect(screen.getByRole('tab', { name: 'Overlaps' }).getAttribute('aria-selected')).toBe('true');
});
