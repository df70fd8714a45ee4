import { emptyEqualizer, newProcessor } from '../song';
import { fileFormat, parseChainFile, processorIn, writeChainFile, writeProcessorFile } from './chain-file';

const chain = [emptyEqualizer('e'), newProcessor('gate', 'g')];

test('a processor and a chain come back as they were written', () => {
  expect(processorIn(writeProcessorFile(chain[1]))).toEqual(chain[1]);
  expect(parseChainFile(writeChainFile(chain), 'Saved')).toEqual(chain);
  expect(fileFormat(writeChainFile(chain))).toBe('orvid.chain');
});

test('other texts are no processor, and no chain, with the fault by its name', () => {
  for (const text of ['', '{', '[]', '{"format":3}', writeChainFile(chain)]) expect(processorIn(text)).toBeNull();
  expect(processorIn(writeProcessorFile(chain[1]).replace('"version": 1', '"version": 2'))).toBeNull();
  expect(() => parseChainFile('nothing', 'Saved')).toThrow('Saved: format: expected "orvid.chain", found null.');
  expect(() => parseChainFile(writeChainFile([]), 'Saved')).toThrow(/^Saved: chain: /);
  expect(() => parseChainFile(writeChainFile(chain).replace('"gate"', '"grate"'), 'Saved')).toThrow(/^Saved: chain\.1/);
});
