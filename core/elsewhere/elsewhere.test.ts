import {
  CONTOUR_HZ,
  equalLoudnessDb,
  placeOf,
  placePowers,
  placeResponseDb,
  PLACES,
  quieterBalanceDb,
  unheardRanges,
} from '.';

const RATE = 48000;
const at = (id: Parameters<typeof placeOf>[0], hz: number) => placeResponseDb(placeOf(id), [hz], RATE)[0];

// ISO 226:2023: what is 2.4 phon loud is at the threshold of hearing (table 1), and a level at 1 kHz is its own loudness level.
test('contours pass through the threshold of hearing and through their own level at 1 kHz', () => {
  const threshold = equalLoudnessDb(2.4);
  for (const [hz, db] of [
    [20, 78.1],
    [100, 26.5],
    [1000, 2.4],
    [3150, -6],
    [12500, 12.3],
  ])
    expect(threshold[CONTOUR_HZ.indexOf(hz)]).toBeCloseTo(db, 1);
  for (const phon of [20, 40, 60, 80]) expect(equalLoudnessDb(phon)[CONTOUR_HZ.indexOf(1000)]).toBeCloseTo(phon, 6);
});

// The 40 and 80 phon contours at 100 Hz, from memory of the standard's figures: about 64 and 96 dB, so that 12 dB of bass are lost.
test('what is played 40 phon more quietly loses about 12 dB at 100 Hz, and the filters of "very quiet" follow within 1 dB', () => {
  const lost = quieterBalanceDb(80, 40);
  expect(lost[CONTOUR_HZ.indexOf(100)]).toBeGreaterThan(-13);
  expect(lost[CONTOUR_HZ.indexOf(100)]).toBeLessThan(-11);
  CONTOUR_HZ.forEach((hz, i) => {
    if (hz < 31 || hz > 10500) return;
    expect(Math.abs(at('very-quiet', hz) - at('very-quiet', 1000) - lost[i])).toBeLessThan(1);
  });
});

// ITU-T G.712: a telephone line passes 300 to 3400 Hz.
test('a telephone passes 300 to 3400 Hz and shuts off what lies an octave outside', () => {
  for (const hz of [320, 600, 1000, 2000, 3200]) expect(Math.abs(at('telephone', hz))).toBeLessThan(3);
  for (const hz of [150, 6800]) expect(at('telephone', hz)).toBeLessThan(-30);
  const [below, above] = unheardRanges(placeOf('telephone'), RATE);
  expect(below.highHz).toBeGreaterThan(150);
  expect(below.highHz).toBeLessThan(300);
  expect(above.lowHz).toBeGreaterThan(3400);
  expect(above.lowHz).toBeLessThan(6800);
});

test('small speakers have nothing in the lows: no power is counted there', () => {
  expect(at('small-speakers', 200)).toBeCloseTo(-3, 0);
  expect(placePowers(placeOf('small-speakers'), [50, 1000], RATE)[0]).toBe(0);
  expect(placePowers(placeOf('small-speakers'), [50, 1000], RATE)[1]).toBeGreaterThan(1);
});

test('every place does something, and says what', () => {
  for (const { id, about, bands, ears } of PLACES) {
    expect(about.length).toBeGreaterThan(20);
    expect(bands.length > 0 || ears.includes(0)).toBe(true);
    expect(placeOf(id).id).toBe(id);
  }
});
