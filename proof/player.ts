import { guessProbability } from '@/core/measure/binomial';
import type { ProofFacts } from '@/core/proof/page';

/** The program inside the page for the client: plays both sides of a sound at once, and changes between them without a click. */

type SideName = 'before' | 'after';
const SIDES: readonly SideName[] = ['before', 'after'];
/** From one side to the other, seconds. */
const CHANGE_SECONDS = 0.012;
const TRIALS = 8;
/** A browser that has not begun to sound after this long does not let the page sound. */
const RESUME_MS = 2000;

const facts = JSON.parse(document.getElementById('facts')!.textContent) as ProofFacts;
const element = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;
const state = element('state');
const sectionOf = (id: string) => document.querySelector<HTMLElement>(`section[data-item="${CSS.escape(id)}"]`)!;

function bytesOf(base64: string): ArrayBuffer {
  const text = atob(base64.trim());
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes.buffer;
}

const writeTime = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds) % 60).padStart(2, '0')}`;

/** Both sides of one sound, running together; one of them is heard. */
class Player {
  private readonly context = new AudioContext();
  private readonly buffers = new Map<string, AudioBuffer>();
  private sources: AudioBufferSourceNode[] = [];
  private gains: Partial<Record<SideName, GainNode>> = {};
  private startedAt = 0;
  /** How often something was asked for. */
  private asked = 0;
  itemId = facts.items[0].id;
  side: SideName = 'after';
  /** Where it stands while it does not play, seconds. */
  private rest = 0;
  onChange: () => void = () => undefined;

  get isPlaying(): boolean {
    return this.sources.length > 0;
  }

  get position(): number {
    const at = this.isPlaying ? this.context.currentTime - this.startedAt : this.rest;
    return Math.min(facts.seconds, Math.max(0, at));
  }

  /** Sounds are opened when they are wanted: all at once would take a lot of memory. */
  private async bufferOf(itemId: string, side: SideName): Promise<AudioBuffer> {
    const name = `${itemId} ${side}`;
    const known = this.buffers.get(name);
    if (known) return known;
    const script = document.querySelector(`script[data-sound="${CSS.escape(name)}"]`)!;
    const buffer = await this.context.decodeAudioData(bytesOf(script.textContent));
    this.buffers.set(name, buffer);
    return buffer;
  }

  /** @throws Error where the browser gives no sound: it leaves that open for ever */
  private async wake(): Promise<void> {
    await Promise.race([this.context.resume(), new Promise((done) => setTimeout(done, RESUME_MS))]);
    if (this.context.state !== 'running')
      throw new Error('the browser gives none to this page. Look at the sound settings, then press Play again.');
  }

  async play(itemId: string, from = this.position): Promise<void> {
    const asked = ++this.asked;
    this.itemId = itemId;
    const [before, after] = await Promise.all(SIDES.map((side) => this.bufferOf(itemId, side)));
    await this.wake();
    // Something else was asked for while this one was opened.
    if (asked !== this.asked) return;
    this.end();
    for (const name of [...this.buffers.keys()]) if (!name.startsWith(`${itemId} `)) this.buffers.delete(name);
    const at = from >= facts.seconds - 0.05 ? 0 : from;
    const { gainsDb } = facts.items.find(({ id }) => id === itemId)!;
    const when = this.context.currentTime + 0.03;
    this.startedAt = when - at;
    SIDES.forEach((side, i) => {
      const source = new AudioBufferSourceNode(this.context, { buffer: [before, after][i] });
      const level = new GainNode(this.context, { gain: 10 ** (gainsDb[side] / 20) });
      const gain = new GainNode(this.context, { gain: side === this.side ? 1 : 0 });
      source.connect(level).connect(gain).connect(this.context.destination);
      source.start(when, at);
      source.onended = () => {
        if (this.sources.includes(source)) this.stop(0);
      };
      this.sources.push(source);
      this.gains[side] = gain;
    });
    this.onChange();
  }

  private end(): void {
    for (const source of this.sources.splice(0)) {
      source.onended = null;
      source.stop();
    }
  }

  stop(at = this.position): void {
    this.asked++;
    this.rest = at;
    this.end();
    this.onChange();
  }

  seek(seconds: number): void {
    if (this.isPlaying) void this.play(this.itemId, seconds);
    else {
      this.rest = seconds;
      this.onChange();
    }
  }

  hear(side: SideName): void {
    this.side = side;
    const now = this.context.currentTime;
    for (const name of SIDES) this.gains[name]?.gain.setTargetAtTime(name === side ? 1 : 0, now, CHANGE_SECONDS / 3);
    this.onChange();
  }
}

const player = new Player();

/** The blind comparison: which of two is preferred, some times, in random order. */
const trial = { firsts: [] as SideName[], chosen: [] as SideName[], isOn: false };
const coin = (): SideName => SIDES[crypto.getRandomValues(new Uint8Array(1))[0] & 1];
const opposite = (side: SideName): SideName => (side === 'before' ? 'after' : 'before');

function button(text: string, press: () => void): HTMLButtonElement {
  const made = document.createElement('button');
  made.type = 'button';
  made.textContent = text;
  made.onclick = press;
  return made;
}

function showTrial(): void {
  const box = element('trial');
  const buttons = box.querySelector('div')!;
  box.hidden = !trial.isOn;
  if (!trial.isOn) return;
  const number = trial.chosen.length;
  const { name } = facts.items.find(({ id }) => id === player.itemId)!;
  if (number === TRIALS) {
    const after = trial.chosen.filter((side) => side === 'after').length;
    const chance = Math.round(100 * guessProbability(after, TRIALS));
    element('question').textContent =
      `${name}: “after” was preferred ${after} of ${TRIALS} times. Guessing gives so clear a result, or a clearer one, in ${chance} % of all cases${chance <= 5 ? ': you hear it' : ''}.`;
    buttons.replaceChildren(button('Again', startTrial), button('Close', endTrial));
    return;
  }
  const sideOf = (which: 0 | 1) => (which === 0 ? trial.firsts[number] : opposite(trial.firsts[number]));
  const words = ['the first', 'the second'] as const;
  element('question').textContent = `${name}, ${number + 1} of ${TRIALS}: which do you prefer?`;
  buttons.replaceChildren(
    ...([0, 1] as const).map((which) => button(`Hear ${words[which]}`, () => player.hear(sideOf(which)))),
    ...([0, 1] as const).map((which) =>
      button(`I prefer ${words[which]}`, () => {
        trial.chosen.push(sideOf(which));
        if (trial.chosen.length < TRIALS) player.hear(trial.firsts[trial.chosen.length]);
        showTrial();
      }),
    ),
    button('Break off', endTrial),
  );
}

function startTrial(): void {
  trial.isOn = true;
  trial.chosen = [];
  trial.firsts = Array.from({ length: TRIALS }, coin);
  player.side = trial.firsts[0];
  void attempt(player.itemId);
  showTrial();
}

function endTrial(): void {
  trial.isOn = false;
  player.hear('after');
  showTrial();
  element('blind').focus();
}

function show(): void {
  const { position } = player;
  element('time').textContent = `${writeTime(position)} of ${writeTime(facts.seconds)}`;
  for (const side of SIDES) {
    const box = element<HTMLButtonElement>(side);
    // Who compares blind must not be told.
    box.disabled = trial.isOn;
    box.setAttribute('aria-pressed', String(!trial.isOn && player.side === side));
  }
  element<HTMLButtonElement>('stop').disabled = !player.isPlaying;
  for (const { id } of facts.items) {
    const section = sectionOf(id);
    section.toggleAttribute('data-on', player.isPlaying && player.itemId === id);
    const head = section.querySelector('.head')!;
    const x = String((position / facts.seconds) * 1000);
    head.setAttribute('x1', x);
    head.setAttribute('x2', x);
    const slider = section.querySelector('input')!;
    if (document.activeElement !== slider || player.isPlaying) slider.value = String(position);
    slider.setAttribute('aria-valuetext', writeTime(position));
  }
}

player.onChange = show;
/** Plays a sound, and says what is in the way. */
async function attempt(itemId: string): Promise<void> {
  state.textContent = 'Opening the sound …';
  try {
    await player.play(itemId);
    state.textContent = '';
  } catch (error) {
    state.textContent = `The sound cannot be played: ${(error as Error).message}`;
  }
}

for (const { id } of facts.items) {
  const section = sectionOf(id);
  const play = section.querySelector<HTMLButtonElement>('.play')!;
  play.disabled = false;
  play.onclick = () => void attempt(id);
  const slider = section.querySelector('input')!;
  slider.disabled = false;
  slider.oninput = () => player.seek(Number(slider.value));
}
for (const part of document.querySelectorAll<HTMLButtonElement>('button[data-at]')) {
  part.disabled = false;
  part.onclick = () => player.seek(Number(part.dataset.at));
}
element('stop').onclick = () => player.stop();
for (const side of SIDES) element(side).onclick = () => player.hear(side);
const blind = element<HTMLButtonElement>('blind');
blind.disabled = false;
blind.onclick = startTrial;
document.addEventListener('keydown', (event) => {
  // On a keyboard of another alphabet it is the key in that place.
  const isB = event.key.toLowerCase() === 'b' || (event.code === 'KeyB' && !/^[ -~]$/.test(event.key));
  if (isB && !trial.isOn && !event.ctrlKey && !event.metaKey && !event.altKey) player.hear(opposite(player.side));
});
setInterval(show, 100);
state.textContent = '';
show();
