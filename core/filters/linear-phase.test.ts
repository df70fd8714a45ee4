import { seededRandom } from '../formats';
import { newBandSettings } from '../song';
import { designEqualizer } from './design';
import { designLinearPhase, evenResponseDb } from './linear-phase';
import { logSpacedHz, magnitudeDb } from './response';

const TYPES = ['bell', 'low-shelf', 'high-shelf', 'high-pass', 'low-pass', 'notch', 'bell'] as const;

test.each([44100, 48000])(
  'linear phase keeps to its twin of minimum phase, or says how far it strays: %i Hz',
  (rateHz) => {
    const random = seededRandom(rateHz);
    const between = (low: number, high: number) => low * (high / low) ** random();
    let near = 0;
    for (let i = 0; i < 8; i++) {
      const bands = Array.from({ length: 4 }, () => ({
        ...newBandSettings(TYPES[Math.floor(random() * TYPES.length)], between(30, 16000)),
        gainDb: -18 + 36 * random(),
        q: between(0.3, 8),
      }));
      const { leftToLeft, worstErrorDb } = designLinearPhase({ bands, outputGainDb: 0 }, rateHz, 1);
      const sections = designEqualizer({ bands, outputGainDb: 0 }, rateHz);
      const strays = [...logSpacedHz(20, 20000, 700)].map((hz) => {
        const wanted = magnitudeDb(sections, hz, rateHz);
        return wanted < -20 ? 0 : Math.abs(evenResponseDb(leftToLeft, hz, rateHz) - wanted);
      });
      expect(Math.max(...strays)).toBeLessThan(Math.max(0.1, 1.3 * worstErrorDb));
      if (worstErrorDb < 0.05) near++;
    }
    expect(near).toBeGreaterThan(3);
  },
);
