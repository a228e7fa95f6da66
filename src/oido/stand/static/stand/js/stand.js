/** The Stand: its parts put together, and what buttons and keys mean to them. */
import { isForControl, isTyping, pageData } from "../../common/js/main.js";
import { describeBars } from "../../common/js/texts.js";
import { holdDialog } from "../../common/js/signed_out.js";
import { Player } from "../../common/js/player.js";
import { Sound } from "../../common/js/sound.js";
import { askedFor } from "./asked.js";
import { Clock } from "../../common/js/playing/clock.js";
import { Hearing } from "./hearing.js";
import { How } from "./how.js";
import { InWords } from "./in_words.js";
import { Incoming } from "./incoming.js";
import { InputCheck } from "./input_check.js";
import { pitchName } from "../../common/js/playing/instrument.js";
import { Latency } from "./latency.js";
import { Machine, meaning } from "./machine.js";
import { MidiOut } from "./midi_out.js";
import { Mixer } from "./mixer.js";
import { nowhere, startOutbox } from "./outbox_line.js";
import { OnMusic } from "./on_music.js";
import { OtherDevice } from "./other_device.js";
import { Pads } from "./pads.js";
import { PlayingView, StandCursor } from "./playing_view.js";
import { Practising } from "./practising.js";
import { Reach } from "./reach.js";
import { Recording } from "./recording.js";
import { SOURCES } from "../../common/js/playing/sources.js";
import { Unplugged } from "./unplugged.js";

/** @param {HTMLElement} root @returns {StandParts} */
function assembled(root) {
  const data = /** @type {StandData} */ (pageData("playing"));
  const find = (/** @type {string} */ what) => /** @type {any} */ (root.querySelector(`[data-${what}]`));
  const say = (/** @type {string} */ words) => (find("state").textContent = words);
  const why = (/** @type {unknown} */ error) => (error instanceof Error ? error.message : String(error));
  const name = (/** @type {number} */ pitch) =>
    data.hasLanes ? (data.lanes[pitch] ?? interpolate(gettext("pad %(n)s"), { n: pitch }, true)) : pitchName(pitch, data.fifths, data.middleC);
  const sound = new Sound({ worklet: root.dataset.worklet ?? "", bank: root.dataset.bank ?? "" });
  const clock = new Clock(sound.context);
  const cursor = new StandCursor(/** @type {Element} */ (document.querySelector("[data-page-view]")), data.bars);
  const parts = /** @type {StandParts} */ (/** @type {unknown} */ ({ root, data, find, say, why, sound, clock, cursor, beats: find("beats"), instrument: find("instrument") }));
  const setUp = () => parts.check.setUp;
  parts.machine = new Machine((state) => show(parts, state));
  parts.mixer = new Mixer(root, sound);
  parts.pads = new Pads(root, data.pads, setUp);
  parts.latency = new Latency(root, sound, clock, setUp);
  parts.incoming = new Incoming(parts, name);
  parts.reach = new Reach(parts);
  parts.check = new InputCheck(root, data, parts.instrument, {
    onInput: (input) => parts.incoming.receive(input),
    onSource: (kind) => newSource(parts, kind),
    onLost: (device) => parts.unplugged.tell(device),
    onLayout: (layout) => {
      parts.incoming.drawInstrument(layout);
      parts.reach.show(layout);
    },
    name,
  });
  parts.player = new Player(sound, data, cursor, (isPlaying) => playingChanged(parts, isPlaying), (_, time) => parts.practising.practice.loopBegins(time));
  parts.hearing = new Hearing(parts);
  parts.practising = new Practising(parts);
  parts.recording = new Recording(parts);
  // It tells what is chosen as soon as it is there.
  parts.how = new How(/** @type {HTMLElement} */ (find("how")), data, (chosen) => chosenChanged(parts, chosen));
  parts.view = cursor.view = new PlayingView(parts);
  parts.unplugged = new Unplugged(parts);
  parts.otherDevice = new OtherDevice(parts);
  parts.midiOut = new MidiOut(parts);
  new InWords(parts);
  parts.onMusic = new OnMusic(parts);
  const sent = (/** @type {string} */ words) => {
    parts.machine.tell("sent");
    parts.latency.show();
    say(words);
    // Who is playing the next round is told when it is over.
    if (!parts.machine.isRecording) showAnalysis(parts);
    const newest = document.querySelector("#takes [data-on-music]")?.getAttribute("data-on-music");
    if (newest && parts.machine.state === "idle") parts.onMusic.show(newest);
  };
  parts.outbox = root.dataset.upload === undefined ? nowhere(sent) : startOutbox(root, sent);
  return parts;
}

/** A take is of the whole part, whatever bars are chosen to practise; only rounds that are laid over one another are of
 * the chosen bars. @param {StandData} data @param {import("./machine.js").Machine} machine @param {How | undefined} how */
function recordWord(data, machine, how) {
  if (machine.isRecording) return pgettext("button", "Stop");
  const recordsChosen = data.passes > 1 && data.click.on && how?.chosen.loop;
  return !how || how.isAll || recordsChosen ? gettext("Record") : gettext("Record all bars");
}

/** What is seen of a state: the words on the buttons, and what can be pressed.
 * @param {StandParts} parts @param {import("./machine.js").State} state */
function show({ root, data, find, machine, how, view }, state) {
  const listen = data.target.length === 0 && data.backing ? gettext("Listen to the backing") : gettext("Listen to the part");
  find("hear-part").textContent = state === "hearing" ? pgettext("button", "Stop") : listen;
  find("practise").textContent = state === "practising" ? pgettext("button", "Stop") : gettext("Practise");
  find("record").textContent = recordWord(data, machine, how);
  find("again").hidden = !machine.isRecording;
  find("record").disabled = find("practise").disabled = state === "preparing";
  root.classList.toggle("is-practising", state === "practising");
  root.classList.toggle("is-recording", machine.isRecording);
  root.dataset.doing = state;
  const mayPlay = ["preparing", "practising", "countingIn", "recording"].includes(state);
  if (!mayPlay) view?.close();
  holdDialog(mayPlay);
}

/** @param {StandParts} parts @param {string} kind */
function newSource({ find, latency, pads, reach, otherDevice }, kind) {
  if (!SOURCES[kind].isTyped) reach.place.replaceChildren();
  find("instrument-place").hidden = !SOURCES[kind].isDrawn;
  latency.show();
  pads.show();
  otherDevice?.watch(kind);
}

/** The player has come to an end by itself, or has begun. @param {StandParts} parts @param {boolean} isPlaying */
function playingChanged({ machine, practising }, isPlaying) {
  if (isPlaying) return;
  practising.practice.isOn = false;
  if (machine.isSounding) machine.tell("stop");
}

/** @param {StandParts} parts @param {Chosen} chosen */
function chosenChanged({ data, find, machine, how, practising, hearing, player, reach, check }, chosen) {
  find("record").textContent = recordWord(data, machine, how);
  reach.show(check.currentLayout);
  const { practice } = practising;
  if (practice.isOn && chosen.bpm !== practice.chosen?.bpm) practice.changeTempo(chosen.bpm);
  else if (machine.state === "hearing" && player.order.what === "target") hearing.hear("target");
}

/** What was heard in the newest take, beside the music: the tray may be out of sight. @param {StandParts} parts */
function showAnalysis({ find }) {
  const row = document.querySelector("#takes [data-take]");
  const lines = [...(row?.querySelectorAll(".said p:not(.passes, .ways)") ?? [])].map((line) => line.textContent ?? "");
  const number = row?.querySelector("th")?.textContent?.replace(/[☆★]/g, "").trim();
  find("loop-news").textContent = lines.length > 0 ? `${interpolate(gettext("Take %(number)s:"), { number }, true)} ${lines.join(" ")}` : "";
}

/** @param {HTMLElement} root */
function start(root) {
  const parts = assembled(root);
  const { data, machine, find, say, sound, how, hearing, practising, recording, latency, instrument } = parts;
  const asked = askedFor(data, window.location.search);
  /** The rung that the address asks for, as long as its bars are the ones chosen. */
  const askedRung = () => (asked && how.chosen.from === asked.from && how.chosen.to === asked.to ? asked.rung : 0);
  const acts = {
    stopRecording: () => recording.stop(),
    stopSound: () => hearing.stop(),
    hear: () => hearing.hear("target"),
    practise: () => practising.practise(askedRung()),
    record: () => recording.record(),
    again: () => recording.again(),
  };
  const press = (/** @type {string} */ code, withShift = false) => {
    const act = meaning(code, withShift, machine.state);
    if (act) acts[act]();
  };

  find("record").addEventListener("click", () => (machine.isRecording ? recording.stop() : recording.record()));
  find("hear-part").addEventListener("click", () => press("Space"));
  find("all-keys").addEventListener("click", () => find("stand-keys").showModal());
  find("again").addEventListener("click", () => recording.again());
  find("practise").addEventListener("click", () => press("Enter", true));
  find("sound-test").addEventListener("click", () => hearing.test());
  find("set-up-turn").addEventListener("click", (/** @type {Event} */ event) => {
    const place = find("set-up");
    place.hidden = !place.hidden;
    /** @type {Element} */ (event.currentTarget).setAttribute("aria-expanded", String(!place.hidden));
    latency.show();
  });
  find("screen-size")?.addEventListener("change", (/** @type {Event} */ event) => {
    instrument.dataset.size = /** @type {HTMLSelectElement} */ (event.target).value;
  });
  find("key-choice")?.addEventListener("change", (/** @type {Event} */ event) => /** @type {HTMLSelectElement} */ (event.target).form?.requestSubmit());

  document.addEventListener("keydown", (event) => {
    if (event.key === "?" && !isTyping(event) && !machine.isRecording) find("stand-keys").showModal();
    if (event.code === "Escape" && !document.querySelector("dialog[open]")) /** @type {HTMLElement} */ (document.activeElement)?.blur();
    // An open dialog, and whatever has the focus, come first. The playing view begins without focus, for hands that are elsewhere.
    if (document.querySelector("dialog[open]") || isForControl(event)) return;
    if (event.code !== "Space" && event.code !== "Enter") return;
    event.preventDefault();
    press(event.code, event.shiftKey);
  });
  for (const gesture of ["pointerdown", "keydown"]) {
    document.addEventListener(gesture, () => sound.open().catch(() => {}), { once: true });
  }

  root.addEventListener("click", (event) => {
    const target = /** @type {Element} */ (event.target);
    const row = /** @type {HTMLElement | null} */ (target.closest("[data-take]"));
    const hearTake = target.closest("[data-hear-take]");
    const pass = /** @type {HTMLElement | null} */ (target.closest("[data-pass]"));
    const step = /** @type {HTMLElement | null} */ (target.closest("[data-rung]"));
    if (row && hearTake) hearing.hearTake(row, /** @type {"take" | "both"} */ (hearTake.getAttribute("data-hear-take")));
    else if (row && pass) {
      pass.blur();
      recording.record({ takeId: row.dataset.take ?? "", way: /** @type {"over" | "replace"} */ (pass.dataset.pass) });
    } else if (step) {
      const { fromBar, toBar, hand, lanes, percent } = step.dataset;
      step.blur();
      how.set(Number(fromBar), Number(toBar), hand ? [hand] : (lanes ?? "").split(",").filter(Boolean), (data.bpm * Number(percent)) / 100);
      practising.practise(Number(step.dataset.rung), how.bpm);
    }
  });

  how.chooseOn(/** @type {Element} */ (document.querySelector("[data-page-view]")));
  if (asked) {
    how.set(asked.from, asked.to, asked.mine, asked.bpm);
    say(interpolate(gettext("Set: %(bars)s at %(bpm)s. Press Practise."), { bars: describeBars(how.chosen.from, how.chosen.to), bpm: how.chosen.bpm }, true));
  }
  hearing.byEar.show();
  parts.view.fetchAhead();
  parts.check.chooseSource();
  root.dataset.ready = "yes";
}

const root = /** @type {HTMLElement | null} */ (document.querySelector("[data-stand]"));
if (root) start(root);
