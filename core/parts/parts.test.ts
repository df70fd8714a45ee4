import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '../measure';
import { partFromName, partFromSound } from '.';

test.each([
  ['Kick In', 'kick drum'],
  ['03_LeadVox-L', 'lead voice'],
  ['BD', 'kick drum'],
  ['Bass DI', 'bass'],
  ['double bass', 'double bass'],
  ['bass drum', 'kick drum'],
  ['SnareTop', 'snare drum'],
  ['OH L', 'overheads'],
  ['bgv 2', 'backing voice'],
  ['Backing Vocals', 'backing voice'],
  ['EGtr2', 'electric guitar'],
  ['gtr_acoustic', 'guitar'],
  ['AcousticGuitar', 'acoustic guitar'],
  ['Cello', 'cello'],
  ['dulcimer', 'dulcimer'],
  ['Pno', 'piano'],
])('%s is named for %s', (name, part) => expect(partFromName(name)?.part).toBe(part));

test.each(['Audio 01', 'Track', 'take 3', 'hatching', 'Bassett Road', 'x'])('%s says nothing', (name) =>
  expect(partFromName(name)).toBeNull(),
);

test('what is short is less sure than what is said in full', () => {
  expect(partFromName('sn')!.sureness).toBeLessThan(partFromName('snare')!.sureness);
});

const heard = (levelDb: (hz: number) => number, crestDb = 12) =>
  partFromSound({
    spectrumDb: Array.from({ length: SPECTRUM_BANDS }, (_, band) => levelDb(SPECTRUM_CENTERS_HZ[band])),
    samplePeakDb: -3,
    rmsDb: -3 - crestDb,
  });

test('what lies at the ends of the spectrum is told, with how sure it is; what lies between, and silence, is not', () => {
  expect(heard((hz) => (hz < 100 ? -20 : -70))).toMatchObject({ part: 'kick drum', sureness: 0.55 });
  expect(heard((hz) => (hz > 6000 ? -30 : -60))).toMatchObject({ part: 'cymbals' });
  expect(heard((hz) => (hz < 160 ? -20 : hz < 800 ? -26 : -70), 10)).toMatchObject({ part: 'bass' });
  expect(heard((hz) => (hz > 200 && hz < 4000 ? -20 : -70))).toBeNull();
  expect(heard(() => -200)).toBeNull();
});
