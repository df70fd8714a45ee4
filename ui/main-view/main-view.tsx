'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import type { Song } from '@/core/song';
import { newId } from '@/core/song';
import { AxisProvider, frequencyScale, useSize } from '../axis';
import { Bar } from '../bar';
import { BandFigures, BandList, BenchField } from '../bench';
import { BlindDialog } from '../compare';
import { allCommands, Palette, useClipboard, useCommandStore, useKeys } from '../commands';
import { Button } from '../controls';
import { Crosshair } from '../crosshair';
import { EarshotLayer } from '../earshot';
import { CleanEndsDialog } from '../edges';
import { EyesReport, useEyes } from '../eyes';
import { Foot } from '../foot';
import { LANDMARK_ROW, useLandmarks } from '../landmarks';
import { chooseFiles, DropArea, Tray } from '../recordings';
import { Register } from '../register';
import { RenderDialog } from '../render';
import { Ruler } from '../ruler';
import { refreshLiveSpectra, refreshMeters, startSession, useFrames } from '../session';
import { startSync, useJobs, useSelection, useSong, useSongStore, type JobView } from '../song';
import { Side } from '../side';
import { SongStrip } from '../song-strip';
import { SERIF, useTheme } from '../theme';
import { Divider } from './divider';
import { useLayout } from './layout-store';

interface MainViewProps {
  songId: string;
  song: Song;
  revision: number;
  jobs: JobView[];
}

/** One song: opened when the page is in the browser, closed when it is left. */
export function MainView({ songId, song, revision, jobs }: MainViewProps) {
  const isOpen = useSongStore((store) => store.songId === songId);
  const opening = useRef({ song, revision, jobs });
  useEffect(() => {
    const first = opening.current;
    useSongStore.getState().open(songId, first.song, first.revision);
    useSelection.getState().chooseStrip(startStrip(first.song));
    first.jobs.forEach(useJobs.getState().put);
    useLayout.getState().restore();
    useEyes.getState().restore();
    useLandmarks.getState().restore();
    const endings = [useTheme.getState().start(), startSync(songId, newId(10)), startSession()];
    return () => {
      endings.forEach((end) => end());
      useSongStore.getState().close();
    };
  }, [songId]);
  return isOpen ? <OpenSong /> : <Opening role="status">Opening “{song.title}” …</Opening>;
}

/** The track to begin with: the first that has been worked on, or the first. */
function startStrip(song: Song): string {
  const begun = song.tracks.find((track) => track.chain.some((equalizer) => equalizer.bands.length > 0));
  return (begun ?? song.tracks[0] ?? song.master).id;
}

function OpenSong() {
  const router = useRouter();
  useKeys();
  useClipboard();
  useFrames(refreshLiveSpectra);
  useFrames(refreshMeters);
  useFirstTrack();
  const isEyesOff = useEyes((eyes) => eyes.isOff);
  useEffect(() => {
    useCommandStore.setState({ commands: allCommands((path) => router.push(path)) });
  }, [router]);
  return (
    <View data-eyes-off={isEyesOff || undefined}>
      <Bar />
      <SongStrip />
      <Body />
      <Foot />
      <Tray />
      <DropArea />
      <Palette />
      <RenderDialog />
      <EyesReport />
      <BlindDialog />
      <CleanEndsDialog />
    </View>
  );
}

/** Chooses the first track when it comes into an empty song. */
function useFirstTrack(): void {
  const firstId = useSong((song) => song.tracks[0]?.id);
  const wasEmpty = useRef(firstId === undefined);
  useEffect(() => {
    if (firstId && wasEmpty.current) useSelection.getState().chooseStrip(firstId);
    wasEmpty.current = firstId === undefined;
  }, [firstId]);
}

const HEADS_WIDTH = 224;
const SIDE_WIDTH = 264;

/** Ruler, Register, bench and side on one grid: the middle column is the shared axis. */
function Body() {
  const body = useRef<HTMLDivElement>(null);
  const { width, height } = useSize(body);
  const axisWidth = Math.max(0, width - HEADS_WIDTH - SIDE_WIDTH);
  const axis = useMemo(() => frequencyScale(axisWidth), [axisWidth]);
  const benchShare = useLayout((layout) => layout.benchShare);
  const tracks = useSong((song) => song.tracks.length);
  const hasLandmarks = useLandmarks((store) => store.isShown) && tracks > 0;
  return (
    <AxisProvider value={axis}>
      <Grid
        ref={body}
        style={{
          gridTemplateColumns: `${HEADS_WIDTH}px ${axisWidth}px ${SIDE_WIDTH}px`,
          gridTemplateRows: `${40 + (hasLandmarks ? LANDMARK_ROW : 0)}px minmax(0, ${1 - benchShare}fr) 2px minmax(0, ${benchShare}fr)`,
          ['--field-width' as string]: `${axisWidth}px`,
        }}
      >
        <Cell $column="1" $row="1">
          <RegisterHead>
            <h2>Register</h2>
            <span>{tracks === 1 ? '1 track' : `${tracks} tracks`}</span>
          </RegisterHead>
        </Cell>
        <Cell $column="2" $row="1">
          <Ruler />
        </Cell>
        <Cell $column="1 / 3" $row="2">
          {tracks === 0 ? <NoTracks /> : <Register />}
        </Cell>
        <Divider bodyHeight={height} />
        <Cell $column="1" $row="4">
          <BandList />
        </Cell>
        <Cell $column="2" $row="4">
          <BenchField />
        </Cell>
        <Crosshair />
        <EarshotLayer />
        <Cell $column="3" $row="1 / 3" $lined>
          <Side />
        </Cell>
        <Cell $column="3" $row="4" $lined>
          <BandFigures />
        </Cell>
      </Grid>
    </AxisProvider>
  );
}

function NoTracks() {
  return (
    <Begin>
      <p>Drop the song’s recordings here: WAV, FLAC, MP3, Ogg Vorbis or Opus. Each becomes a track.</p>
      <Button $strong onPress={chooseFiles}>
        Choose recordings…
      </Button>
    </Begin>
  );
}

const View = styled.main`
  display: grid;
  grid-template-rows: 46px 52px minmax(0, 1fr) 24px;
  grid-template-columns: minmax(0, 1fr);
  width: 100vw;
  min-width: 860px;
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
  }
`;
const Cell = styled.div<{ $column: string; $row: string; $lined?: boolean }>`
  display: grid;
  grid-column: ${({ $column }) => $column};
  grid-row: ${({ $row }) => $row};
  min-width: 0;
  min-height: 0;
  ${({ $lined }) => $lined && 'border-left: 1px solid var(--rule);'}
`;
const Begin = styled.div`
  display: grid;
  place-content: center;
  justify-items: center;
  gap: 16px;
  p {
    font: italic 400 18px ${SERIF};
    color: var(--soft);
  }
`;
