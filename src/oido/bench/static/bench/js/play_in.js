/** Playing in: the Stand's recorder against the click, its notes handed to the Bench as one pass. */
import { barsFrom, lastBar } from "../../common/js/bar_numbers.js";
import { ask } from "../../common/js/signed_out.js";
import { Cursor } from "../../common/js/cursor.js";
import { CHANNEL_LIVE, CHANNEL_PART, Sound, channelOf } from "../../common/js/sound.js";
import { Clock } from "../../common/js/playing/clock.js";
import { drawKeyboard, drawPads, pitchName, showKey } from "../../common/js/playing/instrument.js";
import { Recorder } from "../../common/js/playing/recorder.js";
import { SOURCES } from "../../common/js/playing/sources.js";
import { TYPING_VELOCITY } from "../../common/js/playing/sources/typing.js";
import { fieldValue, use } from "./ask.js";
import { music } from "./page.js";

const NOTE_ON = 0x90;
const NOTE_OFF = 0x80;

/** @param {HTMLElement} root */
function start(root) {
  /** @returns {any} */
  const find = (/** @type {string} */ what) => root.querySelector(`[data-${what}]`);
  const [button, state, beats, instrument, choice] = ["record", "state", "beats", "instrument", "source"].map(find);
  const foot = /** @type {HTMLElement | null} */ (document.querySelector("[data-player]"));
  const sound = new Sound();
  const clock = new Clock(sound.context);
  /** @type {any} */
  let source = null;
  /** @type {Recorder | null} */
  let recorder = null;
  /** @type {Playing | null} */
  let data = null;
  const hasLanes = () => "hasLanes" in music().dataset;

  /** @param {string} words */
  const say = (words) => (state.textContent = words);

  /** @param {NoteInput} input */
  function receive(input) {
    const [status, pitch, velocity] = input.bytes;
    const kind = status & 0xf0;
    sound.play([[0, kind | channelOf(CHANNEL_LIVE, hasLanes()), pitch, velocity]]);
    recorder?.receive(input);
    if (kind === NOTE_ON || kind === NOTE_OFF) showKey(instrument, pitch, kind === NOTE_ON && velocity > 0);
    if (kind === NOTE_ON && velocity > 0 && !recorder?.isRecording) {
      say(interpolate(gettext("heard: %(note)s, %(velocity)s"), { note: pitch, velocity }, true));
    }
  }

  async function fetchData() {
    const url = /** @type {HTMLElement} */ (document.querySelector("[data-playing-url]")).dataset.playingUrl ?? "";
    const response = await ask(url);
    if (!response.ok) throw new Error(String(response.status));
    data = await response.json();
    return /** @type {Playing} */ (data);
  }

  async function chooseSource() {
    source?.stop();
    const now = await fetchData();
    const layout = new Map(Object.entries(now.layout));
    const row = SOURCES[choice.value];
    source = row.make({
      receive, say, showState: say, showDevices: () => {}, surface: instrument, layout, rows: now.typing,
      newLayout: drawInstrument, fixedVelocity: () => TYPING_VELOCITY,
    });
    instrument.hidden = !row.isDrawn;
    await drawInstrument(layout, now);
    say(await source.start().catch((/** @type {Error} */ error) => error.message));
  }

  /** @param {Map<string, number>} layout @param {Playing | null} [now] */
  async function drawInstrument(layout, now = data) {
    if (!now) return;
    if (hasLanes()) drawPads(instrument, now.pads, layout);
    else drawKeyboard(instrument, [...layout.values()], layout, (pitch) => pitchName(pitch, now.fifths, 4));
  }

  /** Bars to be played, at the tempo that is wanted, from second 0 on.
   * @param {Playing} now @returns {PlainBar[]} */
  function barsToPlay(now) {
    const first = Number(fieldValue("play-first_bar"));
    const last = Math.min(Number(fieldValue("play-last_bar")), lastBar(now.bars));
    const rate = Number(fieldValue("play-tempo")) / 100;
    const bars = barsFrom(now.bars, first, last);
    const from = bars[0]?.start ?? 0;
    const moved = (/** @type {number} */ second) => (second - from) / rate;
    return bars.map((bar) => ({ ...bar, start: moved(bar.start), end: moved(bar.end), beats: bar.beats.map(moved) }));
  }

  async function record() {
    button.disabled = true;
    try {
      say(gettext("Getting the sounds ready …"));
      const now = await fetchData();
      const bars = barsToPlay(now);
      if (bars.length === 0) throw new Error(gettext("The part does not have these bars."));
      await sound.open();
      const cursor = new Cursor(music(), bars);
      recorder = new Recorder(sound, clock, bars, Number(fieldValue("play-count-in")), {
        onBeat: (beat) => showBeat(beat),
        onPosition: (second) => cursor.show(second),
        onEnd: (events) => {
          cursor.hide();
          finished(events);
        },
      });
      if (fieldValue("play-way") === "over") recorder.along = [{ notes: heardWith(now, bars), channel: channelOf(CHANNEL_PART, hasLanes()) }];
      const downbeatMs = await recorder.start();
      root.dataset.downbeatMs = String(downbeatMs);
      button.textContent = pgettext("button", "Stop");
    } catch (error) {
      say(interpolate(gettext("Could not record. %(why)s"), { why: error instanceof Error ? error.message : error }, true));
    } finally {
      button.disabled = false;
    }
  }

  /** What is there already is heard while more is laid over it.
   * @param {Playing} now @param {PlainBar[]} bars @returns {PlainNote[]} */
  function heardWith(now, bars) {
    const whole = now.bars.filter((bar) => bars.some((b) => b.number === bar.number));
    const from = whole[0].start;
    const rate = Number(fieldValue("play-tempo")) / 100;
    const until = whole[whole.length - 1].end;
    return now.target
      .filter(([onset]) => onset >= from && onset < until)
      .map(([onset, length, pitch, velocity]) => [(onset - from) / rate, length / rate, pitch, velocity]);
  }

  /** @param {Beat} beat */
  function showBeat(beat) {
    if (beats.children.length !== beat.beats) {
      beats.replaceChildren(...Array.from({ length: beat.beats }, () => document.createElement("span")));
    }
    [...beats.children].forEach((dot, k) => dot.classList.toggle("is-now", k === beat.beat - 1));
    if (beat.isCountIn) say(interpolate(gettext("Count-in: %(beat)s"), beat, true));
    else if (beat.beat === 1) say(interpolate(gettext("Recording, bar %(bar)s"), beat, true));
  }

  /** @param {RawEvent[]} events */
  function finished(events) {
    delete root.dataset.downbeatMs;
    beats.replaceChildren();
    button.textContent = gettext("Record a pass");
    if (events.length === 0) return say(gettext("No notes arrived; nothing was recorded."));
    say(gettext("Recorded; “Undo” removes it again."));
    const names = ["first_bar", "last_bar", "tempo", "way", "grid", "hand"];
    const values = Object.fromEntries(names.map((name) => [name, fieldValue(`play-${name}`)]));
    use("play", { ...values, events: JSON.stringify(events) });
  }

  button.addEventListener("click", () => (recorder?.isRecording ? recorder.stop() : record()));
  choice.addEventListener("change", chooseSource);
  root.addEventListener("sheet-opened", chooseSource);
  root.addEventListener("sheet-closed", () => source?.stop());
  document.addEventListener(
    "keydown",
    (event) => {
      if (event.code !== "Space" || !recorder?.isRecording) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      recorder.stop();
    },
    { capture: true },
  );
  button.disabled = false;
}

const root = /** @type {HTMLElement | null} */ (document.querySelector("[data-play-in]"));
if (root) start(root);
