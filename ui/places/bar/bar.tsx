'use client';
import { ChevronDown, Play, SkipBack, Square } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useRef } from 'react';
import { Button as AriaButton, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { writeGain, writeNumber, writeTime } from '@/core/formats';
import { toDb } from '@/core/measure';
import { MASTER_ID } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Button, ToggleButton } from '../../kit/controls/button';
import { ValueField, words } from '../../kit/controls/value-field';
import { KeyName, Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';
import { keyName } from '../../window/commands/keys';
import { runCommand, useCommands } from '../../window/commands/command-store';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { leaveFor } from '../../window/server/leave';
import { useSession } from '../../window/sound/session-store';
import { mixLufsNow, useListening } from '../../window/sound/listening';
import { showMark, showText } from '../../kit/frames/show';
import { useFrames, isLookFrame } from '../../kit/frames/use-frames';
import { useMix } from '../../window/sound/mix';
import { useSong, useSongStore } from '../../window/song/song-store';
import { SERIF } from '../../kit/theme/tokens';
import { ElsewhereChoice } from '../../work/elsewhere/elsewhere-choice';
import { BeforeAfter } from './before-after';
import { Group } from './group';
import { audioState, positionSeconds } from '../../window/sound/audio-state';
import { useMeasuredPart } from '../../window/sound/measured-parts';

const SONGS = '/songs';

/** The song's title and menu; transport; before and after; mono; the level of the mix; render. */
export function Bar() {
  const desk = useDesk();
  const router = useRouter();
  const isPlaying = useSession((session) => session.isPlaying);
  const mono = useListening((listening) => listening.mono);
  const isEyesOff = useEyesOff((eyes) => eyes.isOff);
  const isLooped = useSong((song) => song.loop?.enabled ?? false);
  return (
    <Header>
      <Home
        href={SONGS}
        prefetch={false}
        data-hint="To the list of songs"
        onNavigate={(event) => {
          event.preventDefault();
          void leaveFor(desk, SONGS, router.push);
        }}
      >
        Orvid
      </Home>
      <TitleMenu />
      <Group>
        <Button
          aria-label="To the start of the loop"
          data-hint="To the start of the loop, or of the song · Home"
          onPress={() => runCommand(desk, 'go-to-start')}
        >
          <SkipBack size={15} aria-hidden />
        </Button>
        <Button $strong data-hint="Play or stop · Space" onPress={() => runCommand(desk, 'play')}>
          {isPlaying ? (
            <Square size={13} fill="currentColor" aria-hidden />
          ) : (
            <Play size={14} fill="currentColor" aria-hidden />
          )}
          {isPlaying ? 'Stop' : 'Play'}
        </Button>
        <ToggleButton
          isSelected={isLooped}
          data-hint="Play the bracket of the song strip again and again · L"
          onChange={() => runCommand(desk, 'loop')}
        >
          {isLooped ? 'Loop on' : 'Loop off'}
        </ToggleButton>
        <Position />
      </Group>
      <BeforeAfter />
      <ToggleButton
        isSelected={mono}
        data-hint="Left and right summed: width hides conflicts · Shift M"
        onChange={() => runCommand(desk, 'mono')}
      >
        Mono
      </ToggleButton>
      <ElsewhereChoice />
      <ToggleButton
        isSelected={isEyesOff}
        data-hint="Hides curves, ridges and figures of the sound, so that the ears decide · Shift E"
        onChange={() => runCommand(desk, 'eyes-off')}
      >
        {isEyesOff ? 'Eyes on' : 'Eyes off'}
      </ToggleButton>
      <MixLevel />
      <Button $outlined data-hint="The mix as a file" onPress={() => runCommand(desk, 'render')}>
        Render…
      </Button>
    </Header>
  );
}

function TitleMenu() {
  const desk = useDesk();
  const title = useSong((song) => song.title);
  const edit = useSongStore((store) => store.edit);
  const commands = useCommands().filter((command) => command.inTitleMenu);
  return (
    <Title>
      <ValueField
        label="Title of the song"
        shown={title}
        parse={words(1)}
        example="Lantern Ferry: a song needs a title"
        look="title"
        maxLength={120}
        hint="Click to rename the song"
        onCommit={(text) => edit({ kind: 'song.set', changes: { title: text } }, 'Rename the song')}
      />
      <MenuTrigger>
        <AriaButton aria-label="What to do with the song">
          <ChevronDown size={15} aria-hidden />
        </AriaButton>
        <MenuPanel>
          <Menu aria-label="Song" onAction={(id) => runCommand(desk, String(id))}>
            {commands.map((command) => (
              <MenuItem key={command.id} id={command.id} textValue={command.name}>
                {command.name}
                {command.key && <KeyName>{keyName(command.key)}</KeyName>}
              </MenuItem>
            ))}
          </Menu>
        </MenuPanel>
      </MenuTrigger>
    </Title>
  );
}

function Position() {
  const desk = useDesk();
  const text = useRef<HTMLOutputElement>(null);
  useFrames(
    useCallback(() => {
      const shown = writeTime(positionSeconds(desk));
      if (text.current) showText(text.current, shown);
    }, [desk]),
  );
  return (
    <Time ref={text} data-testid="position" aria-label="Position" aria-live="off">
      0:00.0
    </Time>
  );
}

const METER_RANGE_DB = 60;

/** The level of the mix as it plays. */
function MixLevel() {
  const desk = useDesk();
  const bar = useRef<HTMLDivElement>(null);
  const text = useRef<HTMLSpanElement>(null);
  useFrames(
    useCallback(() => {
      if (!isLookFrame()) return;
      const peakDb = toDb(audioState(desk)?.masterPeak ?? 0);
      if (!bar.current || !text.current) return;
      bar.current.style.transform = `scaleX(${Math.min(1, Math.max(0, 1 + peakDb / METER_RANGE_DB)).toFixed(3)})`;
      showMark(bar.current, 'over', String(peakDb > 0));
      const shown = peakDb < -METER_RANGE_DB ? 'silent' : `peak ${writeNumber(peakDb)} dBFS`;
      showText(text.current, shown);
    }, [desk]),
  );
  return (
    <Level data-sound data-hint="Sample peak of the mix; it falls by 20 dB per second">
      <MixLoudness />
      <span ref={text} data-testid="mix-peak">
        silent
      </span>
      <div>
        <div ref={bar} data-testid="mix-meter" />
      </div>
    </Level>
  );
}

/** Loudness of the mix over the loop, worked out from the stored analysis: it follows every change. */
function MixLoudness() {
  const desk = useDesk();
  const revision = useMix((mix) => mix.revision);
  const lufs = useMemo(() => (revision === 0 ? null : mixLufsNow(desk)), [desk, revision]);
  const measured = useMeasuredPart(MASTER_ID);
  const isCurrent = measured?.isCurrent;
  return (
    <b
      data-testid="mix-loudness"
      data-hint={
        isCurrent
          ? `Measured: true peak ${writeNumber(measured.figures.truePeakDbtp)} dBTP, the pass filters free ${writeGain(measured.figures.headroomFreedDb)} · BS.1770-4`
          : 'Integrated loudness of the mix over the loop, an estimate from the stored analysis · Image measures it with its true peak'
      }
    >
      {lufs === null || !Number.isFinite(lufs)
        ? ''
        : `${isCurrent ? '' : '≈ '}${writeNumber(isCurrent ? (measured.figures.integratedLufs ?? lufs) : lufs)} LUFS`}
      {isCurrent && ` · ${writeNumber(measured.figures.truePeakDbtp)} dBTP`}
    </b>
  );
}

const Header = styled.header`
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 16px 0 18px;
  border-bottom: 2px solid var(--grid);
  > * {
    flex: none;
  }
  > :last-child {
    margin-left: auto;
  }
  @media (max-width: 1180px) {
    gap: 6px;
    padding: 0 10px;
  }
  /* What does not fit stands below, in reach. */
  @media (max-width: 1120px) {
    flex-wrap: wrap;
    padding-block: 6px;
  }
`;
const Home = styled(Link)`
  color: var(--ink);
  font: italic 400 23px/1 ${SERIF};
  text-decoration: none;
`;
const Title = styled.div`
  display: flex;
  align-items: center;
  flex: 0 1 172px !important;
  min-width: 90px;
  button {
    display: grid;
    padding: 5px;
    border: 0;
    background: none;
    color: var(--soft);
  }
`;
const Time = styled.output`
  min-width: 58px;
  padding-left: 8px;
  font-size: 17px;
  font-weight: 500;
`;
const Level = styled.div`
  width: 122px;
  @media (max-width: 1180px) {
    width: 86px;
    overflow: hidden;
    white-space: nowrap;
  }
  font-size: 12px;
  font-weight: 500;
  line-height: 1.2;
  > b,
  > span {
    display: block;
    white-space: nowrap;
  }
  > div {
    height: 4px;
    margin-top: 2px;
    background: var(--grid);
  }
  > div > div {
    height: 100%;
    background: var(--ink);
    transform: scaleX(0);
    transform-origin: left;
  }
  > div > div[data-over='true'] {
    background: var(--accent);
  }
`;
