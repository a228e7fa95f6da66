/** The Stand: its parts put together, and what buttons and keys mean to them. */
import { isForControl, isTyping, pageData } from "../../common/js/main.js";
import { describeBars } from "../../common/js/texts.js";
import { ask, holdDialog } from "../../common/js/signed_out.js";
import { Player } from "../../common/js/player.js";
import { ELECTRIC_PIANO, KIT, PIANO, Sound } from "../../common/js/sound.js";
import { askedFor } from "./asked.js";
import { ByEar } from "./by_ear.js";
import { Clock } from "../../common/js/playing/clock.js";
import { Drawing } from "./drawing.js";
import { DrawnInstrument } from "./drawn_instrument.js";
import { Hearing } from "./hearing.js";
import { How } from "./how.js";
import { InWords } from "./in_words.js";
import { Incoming } from "./incoming.js";
import { InputCheck } from "./input_check.js";
import { OwnPace } from "./own_pace.js";
import { pitchName } from "../../common/js/playing/instrument.js";
import { Latency } from "./latency.js";
import { Machine, meaning } from "./machine.js";
import { MidiOut } from "./midi_out.js";
import { Mixer } from "./mixer.js";
import { whenSentElsewhere } from "./outbox.js";
import { nowhere, startOutbox } from "./outbox_line.js";
import { OnMusic } from "./on_music.js";
import { OtherDevice } from "./other_device.js";
import { Pads } from "./pads.js";
import { PlayingView, StandCursor } from "./playing_view.js";
import { Practising } from "./practising.js";
import { Reach } from "./reach.js";
import { Recording } from "./recording.js";
import { heardHere } from "./sound_test.js";
import { SOURCES } from "../../common/js/playing/sources.js";
import { Unplugged } from "./unplugged.js";

/** So long the list of takes waits for the newest one to be measured, asking again and again. */
const MAX_MEASURING_MS = 7000;
const LOOK_AGAIN_MS = 400;
/** In the list of takes: something of it is still being measured. */
const MEASURING = "[data-is-measuring]";
/** So long the list of takes waits for the newest one to be drawn on the music. */
const MAX_DRAWING_MS = 2000;

/** A take is of the whole part, whatever bars are chosen to practise; only rounds that are laid over one another are of
 * the chosen bars. @param {StandData} data @param {Machine} machine @param {How} how */
function recordWord(data, machine, how) {
  if (machine.isRecording) return pgettext("button", "Stop");
  const recordsChosen = data.passes > 1 && data.click.on && how.chosen.loop;
  return how.isAll || recordsChosen ? gettext("Record") : gettext("Record all bars");
}

/** What is seen of a state: the words on the buttons, and what can be pressed.
 * @param {HTMLElement} root @param {StandData} data @param {(what: string) => any} find @param {Machine} machine @param {How} how */
function showState(root, data, find, machine, how) {
  const { state } = machine;
  const listen = data.target.length === 0 && data.backing ? gettext("Listen to the backing") : gettext("Listen");
  find("hear-part").textContent = state === "hearing" ? pgettext("button", "Stop") : listen;
  find("practise").textContent = state === "practising" ? pgettext("button", "Stop") : gettext("Practise");
  find("record").textContent = recordWord(data, machine, how);
  find("again").hidden = !machine.isRecording;
  find("own-pace").textContent = state === "practising" ? pgettext("button", "Stop") : gettext("At your own pace");
  find("record").disabled = find("practise").disabled = find("own-pace").disabled = state === "preparing";
  root.classList.toggle("is-practising", state === "practising");
  root.classList.toggle("is-recording", machine.isRecording);
  root.dataset.doing = state;
}

/** @param {string} tray the list of takes, or that one is being measured */
const isMeasuring = (tray) => tray.includes("data-is-measuring");

/** @param {string} tray what came in its place: the list itself, or nothing but that one is being measured */
const isList = (tray) => tray.includes('id="takes"');

/** Wait for what is being measured, but not for ever: then the list shows it when it comes.
 * @param {string} tray the list of takes, or that one is being measured @param {string} address where it is as it is now @returns {Promise<string>} the list then */
async function measured(tray, address) {
  const until = performance.now() + MAX_MEASURING_MS;
  while (isMeasuring(tray) && performance.now() < until) {
    await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS));
    const response = await ask(`${address}?waits`).catch(() => null);
    // Nothing has changed (204), or the network is away.
    if (response?.status === 200) tray = await response.text();
  }
  if (isList(tray) || !tray) return tray;
  const response = await ask(address).catch(() => null);
  return response?.status === 200 ? response.text() : tray;
}

/** @param {string} tray the list of takes @returns {string} where the newest is drawn on the music, if it is */
function newestOnMusic(tray) {
  const newest = new DOMParser().parseFromString(tray, "text/html").querySelector("[data-on-music]");
  return newest?.getAttribute("data-on-music") ?? "";
}

/** @param {string} tray the list of takes, in place of the one that is shown. Without the list, what asks for it is put there. */
function showTakes(tray) {
  const shown = document.getElementById("takes");
  if (!shown) return;
  if (isList(tray)) shown.outerHTML = tray;
  else shown.insertAdjacentHTML("afterbegin", tray);
  htmx.process(/** @type {Element} */ (document.getElementById("takes")));
}

/** What was heard in the newest take, beside the music: the tray may be out of sight. @param {HTMLElement} place */
function showAnalysis(place) {
  const row = document.querySelector("#takes [data-take]");
  const lines = [...(row?.querySelectorAll(".said p:not(.passes, .ways)") ?? [])].map((line) => line.textContent ?? "");
  const number = row?.querySelector("th")?.textContent?.replace(/[☆★]/g, "").trim();
  place.textContent = lines.length > 0 ? `${interpolate(gettext("Take %(number)s:"), { number }, true)} ${lines.join(" ")}` : "";
}

/** @param {HTMLElement} root */
function start(root) {
  const data = /** @type {StandData} */ (pageData("playing"));
  const find = (/** @type {string} */ what) => /** @type {any} */ (root.querySelector(`[data-${what}]`));
  const say = (/** @type {string} */ words) => (find("state").textContent = words);
  const name = (/** @type {number} */ pitch) =>
    data.hasLanes ? (data.laneNames[pitch] ?? interpolate(gettext("pad %(n)s"), { n: pitch }, true)) : pitchName(pitch, data.fifths, data.middleC);
  const page = { root, data, find, say };

  // What is played first, and then what the part sounds like.
  const sound = new Sound({ firstSounds: data.hasLanes ? [KIT] : [PIANO, ELECTRIC_PIANO].map(String) });
  const clock = new Clock(sound.context);
  const cursor = new StandCursor(/** @type {Element} */ (document.querySelector("[data-page-view]")), data.bars);
  const mixer = new Mixer(root, sound);
  const machine = new Machine((state) => stateChanged(state));
  sound.mayImprove = () => !["practising", "countingIn", "recording"].includes(machine.state);
  sound.bank.onProgress = (share) => (find("sound-progress").textContent = share === null || share === 1 ? "" : interpolate(gettext("Sounds: %(n)s %"), { n: Math.round(100 * share) }, true));
  let isTroubled = false;
  sound.bank.onTrouble = () => {
    if (!isTroubled) check.say(gettext("The sounds could not be loaded. You hear a simple sound instead; recording works as usual."));
    isTroubled = true;
  };
  sound.bank.fetchAhead(sound.firstSounds[0]);
  const player = new Player(sound, data, cursor, (isPlaying) => !isPlaying && machine.isSounding && machine.tell("stop"), (_, time) => practising.practice.loopBegins(time));

  const check = new InputCheck(root, data, find("instrument"), {
    onInput: (input) => incoming.receive(input),
    onSource: (kind) => sourceChanged(kind),
    onLost: (device) => unplugged.tell(device),
    onLayout: (layout) => {
      if (view.isOpen) view.drawKeys();
      else instrument.draw(layout);
      showReach(layout);
    },
    name,
    isFree: () => !["preparing", "practising", "countingIn", "recording"].includes(machine.state),
  });
  const instrument = new DrawnInstrument(find("instrument"), data, name, () => check.row.isTyped);
  const pads = new Pads(root, data.pads, () => check.setUp);
  const latency = new Latency(root, sound, clock, () => check.setUp);
  const reach = new Reach(find("reach"), data, check);
  // It tells what is chosen as soon as it is there, before there is anybody to hear it.
  let chosenChanged = (/** @type {Chosen} */ _chosen) => {};
  const how = new How(root, data, (chosen) => chosenChanged(chosen));
  const showReach = (/** @type {Map<string, number>} */ layout) => reach.show(layout, how.chosen, how.voices.length);

  const view = (cursor.view = new PlayingView({ ...page, name, how, check, instrument }));
  const byEar = new ByEar({ data, machine, say, sound, place: find("hears-left") });
  const hearing = new Hearing({ data, machine, say, sound, player, cursor, how, byEar });
  const practising = new Practising({ ...page, machine, sound, clock, player, check, how, latency, view });
  const ownPace = new OwnPace({
    ...page, machine, sound, check, how, view, instrument, name,
    onLoop: (from, to) => {
      how.setBars(from, to);
      practising.practise();
    },
  });
  const outbox = root.dataset.upload === undefined ? nowhere((words) => sent(words)) : startOutbox(root, sent);
  const recording = new Recording({ ...page, machine, sound, clock, cursor, check, mixer, how, pads, latency, outbox, view });
  const incoming = new Incoming({
    root, data, sound, pads, instrument,
    onPlayed: ({ input, pitch, velocity, isOn }) => {
      recording.receive(input);
      ownPace.receive({ timeStamp: input.timeStamp, bytes: [input.bytes[0], pitch, velocity] });
      practising.receive({ timeStamp: input.timeStamp, bytes: [input.bytes[0], pitch, velocity] });
      if (!isOn) return;
      latency.tap(input);
      view.struck(pitch, recording.secondOf(input.timeStamp) ?? practising.secondOf(input.timeStamp));
      unplugged.close();
    },
    onWords: (pitch, velocity) => check.showNote(pitch, velocity, machine.isRecording),
  });
  // A device that is turned has room for other keys.
  let width = window.innerWidth;
  window.addEventListener("resize", () => {
    if (window.innerWidth !== width && !view.isOpen) instrument.draw(check.currentLayout);
    width = window.innerWidth;
  });
  const unplugged = new Unplugged({ find, machine, view, check, onEnd: (isKept) => (isKept ? recording.stop("unplugged") : recording.drop()) });
  const otherDevice = new OtherDevice([find("other-device"), find("other-device-now")], check, view);
  new MidiOut({ find, sound, clock, check });
  new InWords(find("in-words"), { data, sound, cursor });
  const onMusic = new OnMusic({ root, find, cursor, onHear: (row) => hearing.hearTake(row, "take") });

  /** @param {import("./machine.js").State} state */
  function stateChanged(state) {
    showState(root, data, find, machine, how);
    const mayPlay = ["preparing", "practising", "countingIn", "recording"].includes(state);
    if (!mayPlay) {
      unplugged.close();
      view.close();
    }
    holdDialog(mayPlay);
  }

  /** @param {string} kind */
  function sourceChanged(kind) {
    if (!SOURCES[kind].isTyped) reach.place.replaceChildren();
    find("instrument-place").hidden = !SOURCES[kind].isDrawn;
    latency.show();
    pads.show();
    otherDevice.watch(kind);
  }

  /** Is the list of takes shown without what is still being measured? */
  let isWaiting = false;

  /** Something has arrived at the server. The take on the music and the list of takes appear together: what somebody is about
   * to press must not move away.
   * @param {string} words @param {string} tray the list of takes as it is now, unless nothing was sent */
  async function sent(words, tray = "") {
    if (isMeasuring(tray) && !machine.isRecording) say(gettext("Listening …"));
    tray = await measured(tray, root.dataset.tray ?? "");
    isWaiting = isMeasuring(tray);
    const newest = newestOnMusic(tray);
    const drawing = newest ? await Promise.race([onMusic.read(newest), new Promise((late) => setTimeout(late, MAX_DRAWING_MS, ""))]) : "";
    if (tray) showTakes(tray);
    machine.tell("sent");
    latency.show();
    say(words);
    // Who is playing the next round is told when it is over.
    if (!machine.isRecording) showAnalysis(find("loop-news"));
    if (drawing && machine.state === "idle") onMusic.put(newest, drawing);
  }

  whenSentElsewhere(async () => {
    const response = await ask(root.dataset.tray ?? "").catch(() => null);
    if (response?.status === 200) showTakes(await response.text());
  });

  // One that took longer to be measured is told and drawn once the list has it.
  document.addEventListener("htmx:afterSettle", () => {
    const takes = document.getElementById("takes");
    if (!isWaiting || !takes || takes.querySelector(MEASURING)) return;
    if (machine.state === "idle") sent(gettext("Take stored."), takes.outerHTML);
  });

  chosenChanged = (chosen) => {
    find("record").textContent = recordWord(data, machine, how);
    showReach(check.currentLayout);
    const { practice } = practising;
    if (practice.isOn && chosen.bpm !== practice.chosen?.bpm) practice.changeTempo(chosen.bpm);
    else if (machine.state === "hearing" && player.order.what === "target") hearing.hear("target");
  };
  chosenChanged(how.chosen);

  const asked = askedFor(data, window.location.search);
  /** The rung that the address asks for, as long as its bars are the ones chosen. */
  const askedRung = () => (asked && how.chosen.from === asked.from && how.chosen.to === asked.to ? asked.rung : 0);
  const acts = {
    stopRecording: () => recording.stop(),
    stopSound: () => machine.tell("stop"),
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
  find("own-pace").addEventListener("click", () => (ownPace.isOn ? machine.tell("stop") : ownPace.start()));
  find("sound-test").addEventListener("click", () => heardHere(page, sound, check, latency));
  find("set-up-turn").addEventListener("click", (/** @type {Event} */ event) => {
    const place = find("set-up");
    place.hidden = !place.hidden;
    if (!place.hidden) place.scrollIntoView({ block: "start" });
    /** @type {Element} */ (event.currentTarget).setAttribute("aria-expanded", String(!place.hidden));
    latency.show();
  });
  find("screen-size")?.addEventListener("change", (/** @type {Event} */ event) => {
    instrument.place.dataset.size = /** @type {HTMLSelectElement} */ (event.target).value;
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
      if (step.dataset.atOwnPace === undefined) practising.practise(Number(step.dataset.rung), how.bpm);
      else ownPace.start(Number(step.dataset.rung));
    }
  });

  how.chooseOn(find("drawing"));
  if (asked) {
    how.set(asked.from, asked.to, asked.mine, asked.bpm);
    say(interpolate(gettext("Set: %(bars)s at %(bpm)s. Press Practise."), { bars: describeBars(how.chosen.from, how.chosen.to), bpm: how.chosen.bpm }, true));
  }
  byEar.show();
  new Drawing(find("drawing"), { url: root.dataset.music ?? "", key: data.keyText, onDrawn: () => how.showChosen() }).fit();
  view.fetchAhead();
  check.begin().then(() => (root.dataset.ready = "yes"));
}

const root = /** @type {HTMLElement | null} */ (document.querySelector("[data-stand]"));
if (root) start(root);
