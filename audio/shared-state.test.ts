import { LoadMeter } from './worklet/load-meter';
import { SharedState } from './shared-state';

test('what one side writes the other reads', () => {
  const writer = new SharedState();
  const reader = new SharedState(writer.buffer);
  writer.write(12345, 12000, true, 0.07, 0.5, 99);
  writer.writeTrack(3, 0.25);
  writer.countSong();
  expect([
    reader.position,
    reader.heard,
    reader.isPlaying,
    reader.load,
    reader.masterPeak,
    reader.tapPosition,
    reader.songsTaken,
    reader.trackPeak(3),
    reader.trackPeak(2),
  ]).toEqual([12345, 12000, true, 0.07, 0.5, 99, 1, 0.25, 0]);
  reader.movePosition(7);
  expect([writer.position, writer.heard]).toEqual([7, 7]);
  reader.outputLatency = 960;
  expect(writer.outputLatency).toBe(960);
});

test('the load is the share of a second that was busy', () => {
  const clock = jest.spyOn(performance, 'now');
  const meter = new LoadMeter(48000);
  let now = 0;
  clock.mockImplementation(() => now);
  for (let i = 0; i < 375; i++) {
    meter.begin();
    now += 0.4;
    meter.end(128);
    now += 2.27;
  }
  clock.mockRestore();
  // 375 quanta of 128 frames are a second; 0.4 ms each make 150 ms.
  expect(meter.value).toBeCloseTo(0.15, 6);
});
