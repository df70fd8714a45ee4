'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import styled from 'styled-components';
import { useEstimated } from '../../window/sound/strip-measures';
import { equalizersOf, findStrip, type Song } from '@/core/song';
import { useDesk, Desk, DeskProvider } from '../../window/desk/desk';
import { leaveFor } from '../../window/server/leave';
import { AxisProvider } from '../../kit/axis/axis-context';
import { frequencyScale } from '../../kit/axis/scale';
import { useSize } from '../../kit/axis/use-size';
import { HEADS_WIDTH } from '../../kit/axis/heads-width';
import { Bar } from '../../places/bar/bar';
import { BandFigures } from '../../places/bench/band-figures';
import { BandList } from '../../places/bench/band-list';
import { BenchField } from '../../places/bench/bench-field';
import { allCommands } from './commands';
import { Palette } from '../../places/palette/palette';
import { useClipboard } from '../../work/bands/use-clipboard';
import { useCommandStore } from '../../window/commands/command-store';
import { useKeys } from '../../window/commands/use-keys';
import { Crosshair } from '../../places/crosshair/crosshair';
import { EarshotLayer } from '../../work/earshot/earshot-layer';
import { ElsewhereStrip, ElsewhereVeil } from '../../work/elsewhere/elsewhere-layer';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { browserStorage } from '../../kit/storage/browser-storage';
import { Foot } from '../../places/foot/foot';
import { LANDMARK_ROW } from '../../work/landmarks/landmark-row';
import { useLandmarks } from '../../work/landmarks/landmarks-store';
import { MomentBanner } from '../../work/history/moment-banner';
import { PassageBanner } from '../../work/passages/passage-banner';
import { DropArea } from '../../work/recordings/drop-area';
import { Register } from '../../places/register/register';
import { Ruler } from '../../places/ruler/ruler';
import { refreshLiveSpectra } from '../../window/sound/live';
import { refreshMeters } from '../../window/sound/meters';
import { useFrames } from '../../kit/frames/use-frames';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { useSelection } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { Side } from '../../places/side/side';
import { SongStrip } from '../../places/strip/song-strip';
import { SERIF } from '../../kit/theme/tokens';
import { useTheme } from '../../kit/theme/theme-store';
import { MessagePage } from '../message/message-page';
import { Divider } from './divider';
import { useLayout } from './layout-store';
import { liveSong, songOf } from '../../window/song/live-song';
import { openSongState } from '../../window/song/song-state';
import { takeLeftEdits } from '../../window/outbox/left-edits';
import { openLink } from '../../window/outbox/link';
import { openSound } from '../../window/sound/session-store';
import { WORKS } from '../../work/works';
import { NoticeRegion } from '../../window/notices/notice-region';
import { AddRecordingsButton } from '../../work/recordings/add-button';
import { useWholeRegister } from '../../window/view/whole-register';
import { keepVisit, lastVisit } from '../../window/song/visits';
import { AtRest } from '../../kit/late/late';

interface MainViewProps {
  songId: string;
  song: Song;
  revision: number;
  jobs: JobView[];
}

const LACKING =
  'It gives this page no shared memory (SharedArrayBuffer), through which sound is played. Current versions of Chromium, Firefox and Safari do. Your songs are as they were.';

const hasSharedMemory = () => 'SharedArrayBuffer' in window;
const neverChanges = () => () => undefined;

/** One song: opened when the page is in the browser, closed when it is left. */
export function MainView({ songId, song, revision, jobs }: MainViewProps) {
  const [desk, setDesk] = useState<Desk | null>(null);
  const canOpen = useSyncExternalStore(neverChanges, hasSharedMemory, () => true);
  const opening = useRef({ song, revision, jobs });
  useEffect(() => {
    if (!hasSharedMemory()) return;
    const opened = openDesk(songId, opening.current);
    setDesk(opened);
    return () => {
      setDesk(null);
      keepVisit(opened);
      opened.end();
    };
  }, [songId]);
  useEffect(() => useTheme.getState().start(), []);
  if (!canOpen) return <MessagePage title="This browser cannot open songs" text={LACKING} />;
  if (!desk) return <Opening role="status">Opening “{song.title}” …</Opening>;
  return (
    <DeskProvider value={desk}>
      <OpenSong />
    </DeskProvider>
  );
}

/** Puts a song on a desk of its own: what the server has of it, what an earlier visit has left, its sound. */
function openDesk(songId: string, { song, revision, jobs }: Pick<MainViewProps, 'song' | 'revision' | 'jobs'>): Desk {
  const desk = new Desk(songId);
  useLayout.getState().restore();
  useEyesOff.getState().restore();
  useLandmarks.getState().restore();
  const visit = lastVisit(songId);
  const state = openSongState(song, revision, takeLeftEdits(songId, browserStorage()));
  liveSong(desk).accept({ ...state, history: visit?.history ?? state.history });
  const { chooseStrip, chooseBand } = useSelection.of(desk);
  const isThere = visit && findStrip(songOf(desk), visit.stripId);
  chooseStrip(isThere ? visit.stripId : startStrip(songOf(desk)));
  if (isThere) chooseBand(visit.bandId);
  jobs.forEach(useJobs.of(desk).put);
  openLink(desk);
  openSound(desk);
  return desk;
}

/** The track to begin with: the first that has been worked on, or the first. */
function startStrip(song: Song): string {
  const begun = song.tracks.find((track) => equalizersOf(track.chain).some((equalizer) => equalizer.bands.length > 0));
  return (begun ?? song.tracks[0] ?? song.master).id;
}

function OpenSong() {
  const desk = useDesk();
  const router = useRouter();
  // Before the view is seen: a key that is pressed as soon as it is there must not be lost.
  useLayoutEffect(() => {
    useCommandStore.api(desk).setState({
      commands: allCommands(desk, (path) => void leaveFor(desk, path, router.push)),
      holds: WORKS.flatMap(({ hold }) => hold?.(desk) ?? []),
    });
  }, [desk, router]);
  useKeys();
  useClipboard();
  useFrames(useCallback((milliseconds) => void refreshLiveSpectra(desk, milliseconds), [desk]));
  useFrames(useCallback((milliseconds) => void refreshMeters(desk, milliseconds), [desk]));
  useFirstTrack();
  const isEyesOff = useEyesOff((eyes) => eyes.isOff);
  return (
    <View data-eyes-off={isEyesOff || undefined}>
      <Bar />
      <SongStrip />
      <Body />
      <Foot />
      <Palette />
      <NoticeRegion />
      {WORKS.map(({ Sheets }, i) => Sheets && <Sheets key={i} />)}
      <AtRest>{WORKS.map(({ LateSheets }, i) => LateSheets && <LateSheets key={i} />)}</AtRest>
    </View>
  );
}

/** Chooses the first track when it comes into an empty song. */
function useFirstTrack(): void {
  const desk = useDesk();
  const firstId = useSong((song) => song.tracks[0]?.id);
  const wasEmpty = useRef(firstId === undefined);
  useEffect(() => {
    if (firstId && wasEmpty.current) useSelection.of(desk).chooseStrip(firstId);
    wasEmpty.current = firstId === undefined;
  }, [desk, firstId]);
}

const ESTIMATE =
  'Estimated: gates, compressors, bands that give way, reverbs and the like are being measured, until then they count as before their last change';
const SIDE_WIDTH = 264;
/** Tabs and choices above the bench's field, px. */
const BENCH_HEAD = 57;

/** Ruler, Register, bench and side on one grid: the middle column is the shared axis. */
function Body() {
  const body = useRef<HTMLDivElement>(null);
  const { width, height } = useSize(body);
  const axisWidth = Math.max(0, width - HEADS_WIDTH - SIDE_WIDTH);
  const axis = useMemo(() => frequencyScale(axisWidth), [axisWidth]);
  const benchShare = useLayout((layout) => layout.benchShare);
  const { isWhole, toggle: toggleWhole } = useWholeRegister();
  const tracks = useSong((song) => song.tracks.length);
  const estimated = useEstimated();
  const hasLandmarks = useLandmarks((store) => store.isShown) && tracks > 0;
  return (
    <AxisProvider value={axis}>
      <Grid
        ref={body}
        style={{
          gridTemplateColumns: `${HEADS_WIDTH}px ${axisWidth}px ${SIDE_WIDTH}px`,
          gridTemplateRows: `${40 + (hasLandmarks ? LANDMARK_ROW : 0)}px ${isWhole ? 'minmax(0, 1fr) 0 0' : `minmax(0, ${1 - benchShare}fr) 2px minmax(0, ${benchShare}fr)`}`,
          '--field-width': `${axisWidth}px`,
        }}
      >
        <Cell $column="1" $row="1">
          <RegisterHead>
            <h2>Register</h2>
            <span>
              {tracks === 1 ? '1 track' : `${tracks} tracks`}
              {estimated && (
                <abbr title={ESTIMATE} data-hint={ESTIMATE}>
                  {' '}
                  ≈
                </abbr>
              )}
            </span>
            {tracks > 0 && (
              <WholeButton
                type="button"
                aria-pressed={isWhole}
                data-hint="Shows every lane at once, in place of the bench · W"
                onClick={toggleWhole}
              >
                {isWhole ? 'Bench' : 'Whole'}
              </WholeButton>
            )}
          </RegisterHead>
        </Cell>
        <Cell $column="2" $row="1">
          <Ruler />
        </Cell>
        <Cell $column="1 / 3" $row="2">
          <Heard>
            <div>
              <PassageBanner />
              <MomentBanner />
              <ElsewhereStrip />
            </div>
            {tracks === 0 ? <NoTracks /> : <Register />}
          </Heard>
        </Cell>
        <Over $row="2">
          <ElsewhereVeil />
        </Over>
        {!isWhole && (
          <>
            <Divider bodyHeight={height} />
            <Cell $column="1" $row="4">
              <BandList />
            </Cell>
            <Cell $column="2" $row="4">
              <BenchField />
            </Cell>
            <Over $row="4">
              <ElsewhereVeil top={BENCH_HEAD} />
            </Over>
          </>
        )}
        <Crosshair />
        <EarshotLayer />
        <Cell $column="3" $row="1 / 3" $lined>
          <Side />
        </Cell>
        {!isWhole && (
          <Cell $column="3" $row="4" $lined>
            <BandFigures />
          </Cell>
        )}
      </Grid>
    </AxisProvider>
  );
}

function NoTracks() {
  const rateHz = useSong((song) => song.rateHz);
  return (
    <Begin>
      <p>
        Drop the song’s recordings here, or the folder they are in: WAV, AIFF, FLAC, MP3, Ogg Vorbis or Opus. Each
        becomes a track, at the song’s rate of {rateHz / 1000} kHz.
      </p>
      <AddRecordingsButton />
    </Begin>
  );
}

const View = styled(DropArea)`
  display: grid;
  grid-template-rows: minmax(46px, auto) 52px minmax(0, 1fr) 24px;
  grid-template-columns: minmax(0, 1fr);
  width: 100vw;
  min-width: 850px;
  height: 100vh;
  overflow: hidden;
  /* Eyes off: figures of the sound and the shapes of handles are plain paper; what can be taken hold of stays. */
  &[data-eyes-off] {
    [data-sound],
    [data-testid='crosshair'],
    .sign {
      visibility: hidden;
    }
    [data-figure]:not(:focus) {
      color: transparent;
    }
  }
`;
const Opening = styled.p`
  margin-top: 30vh;
  color: var(--soft);
  font: italic 400 20px ${SERIF};
  text-align: center;
`;
const Grid = styled.div`
  display: grid;
  min-height: 0;
  overflow: hidden;
`;
const RegisterHead = styled.header`
  display: flex;
  align-items: baseline;
  gap: 12px;
  padding: 10px 18px;
  h2 {
    font: italic 400 18px/1.2 ${SERIF};
  }
  span {
    color: var(--soft);
    white-space: nowrap;
  }
  abbr {
    text-decoration: none;
  }
`;
const WholeButton = styled.button`
  align-self: center;
  min-height: 24px;
  margin-left: auto;
  padding: 2px 7px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: none;
  color: var(--soft);
  font-size: 12.5px;
  cursor: default;
  &[aria-pressed='true'] {
    border-color: var(--ink);
    color: var(--ink);
  }
`;
const Cell = styled.div<{ $column: string; $row: string; $lined?: boolean }>`
  display: grid;
  grid-column: ${({ $column }) => $column};
  grid-row: ${({ $row }) => $row};
  min-width: 0;
  min-height: 0;
  /* What is drawn in one place leaves what was drawn in the others as it is. */
  isolation: isolate;
  ${({ $lined }) => $lined && 'border-left: 1px solid var(--rule);'}
`;
/** The lanes fill what the strip above them leaves. */
const Heard = styled.div`
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
`;
/** Lies over a field of the shared axis. */
const Over = styled.div<{ $row: string }>`
  grid-column: 2;
  grid-row: ${({ $row }) => $row};
  position: relative;
  overflow: hidden;
  pointer-events: none;
`;
const Begin = styled.div`
  display: grid;
  place-content: center;
  justify-items: center;
  gap: 16px;
  p {
    max-width: 30em;
    font: italic 400 18px ${SERIF};
    color: var(--soft);
    text-align: center;
  }
`;
