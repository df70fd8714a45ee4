import { Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import { asOrvidError } from '@/core/errors';
import { RENDER_FORMATS, type RenderFormat } from '@/core/formats';
import { CEILING_RANGE_DBTP, LUFS_RANGE, SOUND_FILES, TAIL_RANGE_SECONDS } from '@/core/renders';
import { BAND_CHANNELS, SUPPORTED_RATES_HZ, type BandChannel, type Song } from '@/core/song';
import { version } from '@/package.json';
import type { RenderOptions } from './render';
import type { RecallFormat } from './song-commands';

/**
 * The command line of docs/command-line.md. Exit codes: 0 success, 1 the input was refused, 2 wrong usage.
 * Each command is loaded when it is called, so that none waits for the packages of the others.
 */
const equalizerCommands = () => import('./equalizer-commands');
const REFUSED = 1;
const WRONG_USAGE = 2;

function number(low: number, high: number, whole = false) {
  return (text: string): number => {
    const value = Number(text);
    const isFine = text.trim() !== '' && value >= low && value <= high && (!whole || Number.isInteger(value));
    if (!isFine) throw new InvalidArgumentError(`expected a ${whole ? 'whole ' : ''}number from ${low} to ${high}.`);
    return value;
  };
}

function songRate(text: string): Song['rateHz'] {
  const found = SUPPORTED_RATES_HZ.find((rateHz) => String(rateHz) === text.trim());
  if (!found) throw new InvalidArgumentError(`expected one of ${SUPPORTED_RATES_HZ.join(', ')}.`);
  return found;
}
const frequencies = (text: string) => text.split(',').map(number(0, 1e6));
const rate = () => new Option('--rate <hz>', 'sample rate').argParser(number(8000, 384000)).makeOptionMandatory();
const bits = () => new Option('--bits <format>', 'sample format').choices(RENDER_FORMATS).default('32f');
const channel = () =>
  new Option('--channel <name>', 'the path that a signal on this channel takes')
    .choices(BAND_CHANNELS)
    .default('stereo');

const program = new Command('orvid')
  .description('The equalizer and the mix, without browser and server.')
  .version(version)
  .exitOverride();

program
  .command('response <eq>')
  .description('magnitude, phase and group delay as CSV')
  .addOption(rate())
  .addOption(new Option('--freqs <list>', 'frequencies in Hz, separated by commas').argParser(frequencies))
  .addOption(
    new Option('--points <n>', 'so many points from 20 Hz to 20 kHz')
      .argParser(number(2, 100000, true))
      .conflicts('freqs'),
  )
  .addOption(channel())
  .action(
    async (
      eq: string,
      options: { rate: number; freqs?: number[]; points?: number; channel: BandChannel },
      command: Command,
    ) => {
      if (!options.freqs && !options.points) command.error('error: give --freqs or --points');
      const { pointsUpTo20k, response } = await equalizerCommands();
      await response(eq, options.rate, options.freqs ?? pointsUpTo20k(options.points!, options.rate), options.channel);
    },
  );

program
  .command('sections <eq>')
  .description('the second-order sections that the engine runs, as CSV')
  .addOption(rate())
  .addOption(channel())
  .action(async (eq: string, options: { rate: number; channel: BandChannel }) =>
    (await equalizerCommands()).sections(eq, options.rate, options.channel),
  );

program
  .command('fit <sections> [eq]')
  .description('an equalizer of ordinary bands that does what sections in a CSV file do')
  .addOption(rate())
  .action(async (file: string, output: string | undefined, options: { rate: number }) =>
    (await equalizerCommands()).fit(file, output, options.rate),
  );

program
  .command('apply <eq> <in> <out>')
  .description('a file through the equalizer')
  .addOption(bits())
  .action(async (eq: string, input: string, output: string, options: { bits: RenderFormat }) =>
    (await equalizerCommands()).apply(eq, input, output, options.bits),
  );

program
  .command('impulse <eq> <out>')
  .description('the impulse response as a 32-bit float WAV')
  .addOption(rate())
  .addOption(new Option('--length <n>', 'samples').argParser(number(1, 2 ** 24, true)).makeOptionMandatory())
  .action(async (eq: string, output: string, options: { rate: number; length: number }) =>
    (await equalizerCommands()).impulse(eq, output, options.rate, options.length),
  );

program
  .command('render <song> <out>')
  .description('the mix of a song (*.orvid.json, or the id of a song in the database)')
  .option('--stems <dir>', 'also each track, group and return by itself')
  .option('--groups', 'of the stems only the groups')
  .option('--returns', 'of the stems only the returns')
  .option('--through-master', 'the stems through the chain of the master')
  .addOption(new Option('--from <seconds>').argParser(number(0, 36000)).conflicts('part'))
  .addOption(new Option('--to <seconds>').argParser(number(0, 36000)).conflicts('part'))
  .option('--part <name>', 'a part of the song')
  .addOption(new Option('--format <kind>', 'the ending of <out> where it is not given').choices(SOUND_FILES))
  .addOption(new Option('--bits <format>', 'sample format: 32f for WAV, 24 for FLAC').choices(RENDER_FORMATS))
  .addOption(
    new Option('--loudness <lufs>', 'brings the mix to a loudness').argParser(number(LUFS_RANGE.min, LUFS_RANGE.max)),
  )
  .addOption(
    new Option('--ceiling <dbtp>', 'true peak that the mix stays below; -1 where there is a loudness').argParser(
      number(CEILING_RANGE_DBTP.min, CEILING_RANGE_DBTP.max),
    ),
  )
  .option('--limiter', 'a limiter makes room below the ceiling')
  .addOption(
    new Option('--tail <seconds>', 'waits so long for what rings on after the end').argParser(
      number(TAIL_RANGE_SECONDS.min, TAIL_RANGE_SECONDS.max),
    ),
  )
  .option('--why <words>', 'why it was made: goes into the files')
  .action(async (song: string, output: string, options: RenderOptions) =>
    (await import('./render')).render(song, output, options),
  );

program
  .command('analyse <files...>')
  .description('sample peak, RMS, crest factor, third-octave levels')
  .option('--json', 'as JSON')
  .action(async (files: string[], options: { json?: boolean }) =>
    (await import('./analyse')).analyse(files, options.json ?? false),
  );

program
  .command('new <title> <files...>')
  .description('a song of these recordings, in the order of their names; prints its id')
  .addOption(new Option('--rate <hz>', 'sample rate; without it that of the recordings').argParser(songRate))
  .action(async (title: string, files: string[], options: { rate?: Song['rateHz'] }) =>
    (await import('./song-commands')).newSong(title, files, options.rate),
  );

program
  .command('songs')
  .description('the songs: id, title, tracks, length, state')
  .option('--json', 'as JSON')
  .action(async (options: { json?: boolean }) => (await import('./song-commands')).songs(options.json ?? false));

program
  .command('pack <song> <out>')
  .description('a song as one file, *.orvid.zip')
  .action(async (song: string, output: string) => (await import('./song-commands')).pack(song, output));

program
  .command('unpack <file>')
  .description('a song of such a file; prints its id')
  .action(async (file: string) => (await import('./song-commands')).unpack(file));

program
  .command('recall <song> [out]')
  .description('everything that is set in a song, in words and numbers')
  .addOption(new Option('--format <kind>').choices(['md', 'csv', 'json', 'html']).default('md'))
  .action(async (song: string, output: string | undefined, options: { format: RecallFormat }) =>
    (await import('./song-commands')).recall(song, options.format, output),
  );

program
  .command('proof <song> <out>')
  .description('the page for the client: before and after, in one HTML file')
  .option('--tracks <names>', 'tracks that are shown beside the mix, separated by commas')
  .option('--notes <words>', 'what the client is told', '')
  .action(async (song: string, output: string, options: { tracks?: string; notes: string }) =>
    (await import('./song-commands')).proof(song, output, options.tracks, options.notes),
  );

program
  .command('check')
  .description('looks a whole data folder through and mends what can be mended')
  .action(async () => (await import('./data-commands')).check());

program
  .command('backup <file>')
  .description('a copy of the database, also while the server runs')
  .action(async (file: string) => (await import('./data-commands')).backup(file));

program
  .command('restore <file>')
  .description('puts the database back to a copy, also while the server runs')
  .action(async (file: string) => (await import('./data-commands')).restore(file));

program.parseAsync().then(
  () => process.exit(0),
  (thrown: unknown) => {
    if (thrown instanceof CommanderError) process.exit(thrown.exitCode === 0 ? 0 : WRONG_USAGE);
    const error = asOrvidError(thrown);
    console.error([error.message, error.kept].filter(Boolean).join(' '));
    process.exit(REFUSED);
  },
);
