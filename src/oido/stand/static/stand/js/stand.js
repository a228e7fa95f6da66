/** The Stand: check the input, hear the part, practise, record, send, listen back. */
import { Cursor } from "../../common/js/cursor.js";
import { isForControl, pageData } from "../../common/js/main.js";
import { Player } from "../../common/js/player.js";
import { CHANNEL_LIVE, CHANNEL_TAKE, NOTE_OFF, NOTE_ON, Sound, channelOf } from "../../common/js/sound.js";
import { leftOf, passTold, soundsAlong } from "./along.js";
import { Clock } from "./clock.js";
import { askedFor } from "./asked.js";
import { How, barsAt, notesAt } from "./how.js";
import { InputCheck } from "./input_check.js";
import { drawKeyboard, drawPads, pitchName, showKey } from "./instrument.js";
import { Latency } from "./latency.js";
import { Mixer } from "./mixer.js";
import { startOutbox } from "./outbox_line.js";
import { Pads } from "./pads.js";
import { Parcels } from "./parcels.js";
import { Practice } from "./practice.js";
import { Recorder } from "./recorder.js";
import { testSound } from "./sound_test.js";

/** Names of notes are said no oftener: nobody reads faster. */
const WORDS_EVERY_MS = 120;
/** Without a click the robot player begins when it likes. */
const ROBOT_WAITS_MS = 500;
/** The click of an exercise that asks for one sounds at least so loud while recording. */
const OWN_CLICK_LEAST = 0.4;

/** @typedef {import("./parcels.js").Into} Into */

/** @param {HTMLElement} root */
function start(root) {
  const data = /** @type {StandData} */ (pageData("playing"));
  const hasLanes = data.hasLanes;
  /** @returns {any} */
  const find = (/** @type {string} */ what) => root.querySelector(`[data-${what}]`);
  const [recordButton, hearButton, practiseButton, beats, instrument, state] = ["record", "hear-part", "practise", "beats", "instrument", "state"].map(find);
  const sound = new Sound({ worklet: root.dataset.worklet ?? "", bank: root.dataset.bank ?? "" });
  const clock = new Clock(sound.context);
  const page = /** @type {Element} */ (document.querySelector("[data-page-view]"));
  const cursor = new Cursor(page, data.bars);
  const say = (/** @type {string} */ words) => (state.textContent = words);
  const why = (/** @type {unknown} */ error) => (error instanceof Error ? error.message : String(error));
  const name = (/** @type {number} */ pitch) =>
    hasLanes ? (data.lanes[pitch] ?? interpolate(gettext("pad %(n)s"), { n: pitch }, true)) : pitchName(pitch, data.fifths, data.middleC);
  const mixer = new Mixer(root, sound);
  const setUp = () => check.setUp;
  const pads = new Pads(root, data.pads, setUp);
  const latency = new Latency(root, sound, clock, setUp);
  const check = new InputCheck(root, data, instrument, { onInput: receive, onSource: newSource, onLayout: drawInstrument, name });
  const player = new Player(sound, data, cursor, playingChanged, (_, time) => practice.loopBegins(time));
  const practice = new Practice({ sound, clock, player, data, url: root.dataset.loops ?? "" }, { onJudged: judged, onProblem: (words) => (find("loop-news").textContent = words), onLoop: performLoop });
  const how = new How(/** @type {HTMLElement} */ (find("how")), data, chosenChanged);
  const outbox = startOutbox(root, (words) => {
    say(words);
    showReading();
  });
  /** @type {Recorder | null} */
  let recorder = null;
  /** @type {number | null} the rung that is practised */
  let rung = null;
  let cleanLoops = 0;

  let [frame, words] = [0, 0];
  /** @type {{pitch: number, velocity: number} | null} */
  let sounded = null;
  /** @type {Map<number, boolean>} */
  const keysToShow = new Map();

  const isRecording = () => recorder?.isRecording ?? false;

  /** @param {NoteInput} input */
  function receive(input) {
    const [status, number, velocity] = input.bytes;
    const kind = status & 0xf0;
    const isNote = kind === NOTE_ON || kind === NOTE_OFF;
    const isOn = kind === NOTE_ON && velocity > 0;
    if (isOn && pads.hit(number)) return;
    const pitch = isNote && hasLanes ? pads.meant(number) : number;
    sound.play([[0, kind | channelOf(CHANNEL_LIVE, hasLanes), pitch, velocity]]);
    root.dispatchEvent(new CustomEvent("note-sounded", { detail: performance.now() - input.timeStamp }));
    recorder?.receive(input);
    practice.receive({ timeStamp: input.timeStamp, bytes: [status, pitch, velocity] });
    if (isOn) {
      latency.tap(input);
      sounded = { pitch, velocity };
    }
    if (isNote) keysToShow.set(pitch, isOn);
    // What is seen waits for the next frame, and words a little longer, so that no note waits for them.
    if (frame === 0) frame = requestAnimationFrame(showKeys);
    if (isOn && words === 0) words = window.setTimeout(showSounded, WORDS_EVERY_MS);
  }

  function showSounded() {
    words = 0;
    if (sounded) check.showNote(sounded.pitch, sounded.velocity, isRecording());
    sounded = null;
  }

  function showKeys() {
    frame = 0;
    for (const [pitch, isOn] of keysToShow) showKey(instrument, pitch, isOn);
    keysToShow.clear();
  }

  /** @param {string} kind */
  function newSource(kind) {
    find("instrument-place").hidden = !["typing", "screen"].includes(kind);
    latency.show();
    pads.show();
  }

  /** @param {Map<string, number>} layout */
  function drawInstrument(layout) {
    const pitches = [...data.target.map((note) => note[2]), ...(check?.kind === "typing" ? layout.values() : [])];
    if (hasLanes) drawPads(instrument, data.pads, layout);
    else drawKeyboard(instrument, pitches, layout, name);
  }

  /** @param {boolean} isPlaying */
  function playingChanged(isPlaying) {
    hearButton.textContent = isPlaying && !practice.isOn ? gettext("Stop") : gettext("Hear the part");
    practiseButton.textContent = isPlaying && practice.isOn ? gettext("Stop") : gettext("Practise");
    root.classList.toggle("is-practising", isPlaying && practice.isOn);
    if (!isPlaying) practice.isOn = false;
  }

  /** @param {Chosen} chosen */
  function chosenChanged(chosen) {
    if (practice.isOn && chosen.bpm !== practice.chosen?.bpm) practice.changeTempo(chosen.bpm);
    else if (player.isPlaying && !practice.isOn && player.order.what === "target") hear("target");
  }

  /** @param {Beat} beat */
  function showBeat(beat) {
    if (beats.children.length !== beat.beats) {
      beats.replaceChildren(...Array.from({ length: beat.beats }, () => document.createElement("span")));
    }
    [...beats.children].forEach((dot, k) => {
      dot.classList.toggle("is-now", k === beat.beat - 1);
      dot.classList.toggle("is-first", k === 0);
    });
    if (beat.isCountIn) say(interpolate(gettext("Count-in: %(beat)s"), beat, true));
    else if (beat.beat === 1) say(interpolate(gettext("Recording, bar %(bar)s of %(last)s"), { bar: beat.bar, last: data.bars.length }, true));
  }

  /** What the take that is laid into sounds like, so far. @param {Into} into @returns {Promise<{take: PlainNote[], bpm: number}>} */
  async function takeSoFar(into) {
    const row = root.querySelector(`[data-take="${into.takeId}"]`);
    const response = await fetch(/** @type {HTMLElement} */ (row).dataset.notes ?? "");
    if (!response.ok) throw new Error(gettext("this take cannot be heard now"));
    return response.json();
  }

  /** Record a take, or a pass into one. @param {Into | null} into */
  async function record(into = null) {
    if (isRecording()) return;
    if (!into && document.querySelector("[data-no-more-takes]")) return say(gettext("All takes that this exercise allows are recorded. Hand one in."));
    stopSound();
    recordButton.disabled = true;
    try {
      say(gettext("Getting the sounds ready …"));
      await sound.open();
      await check.source?.prepare?.();
      const before = into ? await takeSoFar(into) : null;
      const bpm = before ? before.bpm : how.bpm;
      const rate = bpm / data.bpm;
      const rounds = !into && data.passes > 1 && data.click.on && how.chosen.loop ? data.passes : 1;
      // A take is of the whole part and of all hands; passes are of what is chosen.
      const isPart = into !== null || rounds > 1;
      const chosen = isPart ? how.chosen : { ...how.chosen, mine: [] };
      const bars = barsAt(data.bars.slice(isPart ? chosen.from - 1 : 0, isPart ? chosen.to : undefined), rate);
      const parcels = new Parcels({ root, data, check, pads, latency, outbox }, { into, bpm, bars, chosen });
      recorder = new Recorder(sound, clock, bars, data.countInBars, {
        onBeat: showBeat,
        onPosition: (second) => cursor.show(second * rate),
        onRound: (events, number) => roundEnded(parcels, events, number),
        onEnd: (events, wasWhole) => ended(parcels, events, wasWhole),
      });
      recorder.click = data.click;
      recorder.clickVolume = Math.max(OWN_CLICK_LEAST, mixer.volume("click"));
      recorder.rounds = rounds;
      recorder.along = soundsAlong(data, chosen, rate, before ? leftOf(before.take, into, bars) : []);
      if (!data.click.on) recorder.freeFrom = (data.target[0]?.[0] ?? 0) / rate;
      find("warning").textContent = check.hasAnswered ? "" : gettext("Nothing has arrived from this source yet. If the keys stay silent, stop with Space and see what to try at the top.");
      find("loop-news").textContent = into ? passTold(into, chosen) : "";
      say(data.click.on ? gettext("Count-in") : gettext("Play: the first note begins the take. Space ends it."));
      root.classList.add("is-recording");
      const downbeatMs = await recorder.start();
      parcels.keep(recorder);
      root.dataset.downbeatMs = String(downbeatMs);
      const stretch = isPart ? { fromMs: 1000 * bars[0].start * rate, untilMs: 1000 * bars[bars.length - 1].end * rate } : {};
      check.source?.perform?.(Number.isFinite(downbeatMs) ? downbeatMs : performance.now() + ROBOT_WAITS_MS, { rate, ...stretch });
    } catch (error) {
      root.classList.remove("is-recording");
      say(interpolate(gettext("Could not record: %(why)s"), { why: why(error) }, true));
    } finally {
      recordButton.disabled = false;
      recordButton.textContent = isRecording() ? gettext("Stop") : gettext("Record");
    }
  }

  /** @param {Parcels} parcels @param {RawEvent[]} events @param {number} number */
  function roundEnded(parcels, events, number) {
    if (!parcels.send(events)) return;
    say(interpolate(gettext("Pass %(n)s is laid down; play the next one over it."), { n: number + 1 }, true));
    recorder?.along.push({ notes: parcels.heard(events), channel: channelOf(CHANNEL_TAKE, hasLanes) });
  }

  /** @param {Parcels} parcels @param {RawEvent[]} events @param {boolean} wasWhole */
  function ended(parcels, events, wasWhole) {
    check.source?.perform && check.source.stop();
    root.classList.remove("is-recording");
    delete root.dataset.downbeatMs;
    recordButton.textContent = gettext("Record");
    beats.replaceChildren();
    cursor.hide();
    tellStumble();
    if (parcels.send(events)) say(gettext("Sending the take …"));
    else if (parcels.sent === 0) say(wasWhole ? gettext("Nothing was heard, so nothing is kept. Check the input and record again.") : gettext("Stopped; nothing is kept."));
    parcels.stopKeeping();
  }

  /** What was heard in the newest take, beside the music: the tray may be out of sight. */
  function showReading() {
    const row = document.querySelector("#takes [data-take]");
    const said = [...(row?.querySelectorAll(".said p:not(.passes)") ?? [])].map((line) => line.textContent ?? "");
    const number = row?.querySelector("th")?.textContent?.replace(/[☆★]/g, "").trim();
    find("loop-news").textContent = said.length > 0 ? `${interpolate(gettext("Take %(number)s:"), { number }, true)} ${said.join(" ")}` : "";
  }

  function tellStumble() {
    const stumbled = recorder?.disturbanceMs ?? 0;
    find("warning").textContent = stumbled
      ? interpolate(
          gettext(
            "The sound of this computer stumbled by %(ms)s ms while you played, so timing may look worse than it was. Close what is busy and record again.",
          ),
          { ms: Math.round(stumbled) },
          true,
        )
      : "";
  }

  /** @param {number} ofRung 0 for none @param {number} bpm */
  async function practise(ofRung = 0, bpm = how.bpm) {
    stopSound();
    rung = ofRung || null;
    cleanLoops = 0;
    practiseButton.disabled = true;
    try {
      say(gettext("Getting the sounds ready …"));
      await sound.open();
      await check.source?.prepare?.();
      find("loop-news").textContent = "";
      const chosen = { ...how.chosen, bpm };
      await practice.start(chosen, { rung, source: check.kind, latencyMs: () => latency.offsetMs, isWithoutClick: !data.click.on });
      say(interpolate(gettext("Practising bars %(from)s to %(to)s at %(bpm)s; Space stops."), chosen, true));
    } catch (error) {
      say(interpolate(gettext("No sound: %(why)s. Reload the page to try again."), { why: why(error) }, true));
    } finally {
      practiseButton.disabled = false;
    }
  }

  /** The robot player plays each loop, what is asked of a player. @param {number} time on the audio clock */
  function performLoop(time) {
    const { chosen } = practice;
    root.dataset.loopMs = String(1000 * time + clock.offsetMs);
    if (!check.source?.perform || !chosen) return;
    const rate = player.order.rate;
    const [first, last] = [data.bars[chosen.from - 1], data.bars[chosen.to - 1]];
    const mine = new Set(data.target.filter((_, k) => chosen.mine.length === 0 || chosen.mine.includes(data.voices[k])).map(([, , pitch]) => pitch));
    check.source.perform(1000 * time + clock.offsetMs - (1000 * first.start) / rate, { rate, fromMs: 1000 * first.start, untilMs: 1000 * last.end, pitches: mine });
  }

  /** @param {import("./practice.js").Judged} answer */
  function judged(answer) {
    const said = answer.isClean ? gettext("Clean: %(points)s points.") : gettext("%(points)s points of the %(needed)s that are needed.");
    let words = interpolate(said, answer, true);
    if (answer.inTempo === false) words += ` ${gettext("Too slow to count for this rung.")}`;
    else if (answer.isMet) words += ` ${gettext("This rung is met.")}`;
    else if (answer.row) words += ` ${interpolate(gettext("%(row)s of %(neededLoops)s in a row."), answer, true)}`;
    find("loop-news").textContent = answer.said && !answer.isClean ? `${words} ${answer.said}` : words;
    if (answer.ladder) {
      const ladder = document.getElementById("ladder");
      if (ladder) ladder.outerHTML = answer.ladder;
    }
    cleanLoops = answer.isClean ? cleanLoops + 1 : 0;
    if (how.isOn("raise") && cleanLoops >= Number(find("raise-after").value)) {
      cleanLoops = 0;
      how.setTempo(Math.round(how.bpm + Number(find("raise-by").value)));
      say(interpolate(gettext("From the next loop on at %(bpm)s."), { bpm: how.bpm }, true));
    }
  }

  /** @param {"target" | "take" | "both"} what @param {Playing} [of] a take with its part, at its own tempo */
  async function hear(what, of = data) {
    practice.isOn = false;
    try {
      say(sound.isReady ? "" : gettext("Getting the sounds ready …"));
      player.data = { ...data, ...of };
      const chosen = how.chosen;
      const isPart = of === data;
      const rate = isPart ? chosen.bpm / data.bpm : 1;
      const ownRate = isPart ? 1 : /** @type {any} */ (of).bpm / data.bpm;
      const backing = data.backing ? { ...data.backing, notes: notesAt(data.backing.notes, ownRate) } : null;
      const silent = isPart && chosen.mine.length > 0 ? chosen.silent : [];
      cursor.bars = player.data.bars;
      await player.play({ what, from: isPart ? chosen.from : 1, to: isPart ? chosen.to : data.bars.length, rate, loop: isPart && chosen.loop, click: false, silent, backing });
      say("");
    } catch (error) {
      say(interpolate(gettext("No sound: %(why)s. Reload the page to try again."), { why: why(error) }, true));
    }
  }

  function stopSound() {
    if (practice.isOn) {
      check.source?.perform && check.source.stop();
      say("");
    }
    practice.stop();
    player.data = data;
    cursor.bars = data.bars;
  }

  const stopOrHear = () => {
    if (isRecording()) recorder?.stop();
    else if (player.isPlaying) stopSound();
    else hear("target");
  };
  const asked = askedFor(data, window.location.search);
  /** The rung that the address asks for, as long as its bars are the ones chosen. */
  const askedRung = () => (asked && how.chosen.from === asked.from && how.chosen.to === asked.to ? asked.rung : 0);
  const stopOrPractise = () => (practice.isOn ? stopSound() : practise(askedRung()));

  async function soundTest() {
    try {
      await testSound(sound, data);
      check.say(gettext("Three notes were just played. Not heard? Turn this computer up, check which speakers or headphones it plays on, and see at “Set up” that nothing is muted."));
      latency.show();
    } catch (error) {
      check.say(interpolate(gettext("No sound: %(why)s. Reload the page to try again."), { why: why(error) }, true));
    }
    find("sound-test").blur();
  }

  recordButton.addEventListener("click", () => (isRecording() ? recorder?.stop() : record()));
  hearButton.addEventListener("click", stopOrHear);
  practiseButton.addEventListener("click", stopOrPractise);
  find("sound-test").addEventListener("click", soundTest);
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
    if (event.code === "Escape") /** @type {HTMLElement} */ (document.activeElement)?.blur();
    // While recording, Space stops whatever has the focus: the hands are elsewhere.
    if (isForControl(event) && !(isRecording() && event.code === "Space")) return;
    if (event.code === "Space") {
      event.preventDefault();
      stopOrHear();
    } else if (event.code === "Enter" && !isRecording()) {
      event.preventDefault();
      if (event.shiftKey) stopOrPractise();
      else record();
    }
  });
  for (const gesture of ["pointerdown", "keydown"]) {
    document.addEventListener(gesture, () => sound.open().catch(() => {}), { once: true });
  }

  root.addEventListener("click", async (event) => {
    const target = /** @type {Element} */ (event.target);
    const row = /** @type {HTMLElement | null} */ (target.closest("[data-take]"));
    const hearTake = target.closest("[data-hear-take]");
    const pass = target.closest("[data-pass]");
    const step = /** @type {HTMLElement | null} */ (target.closest("[data-rung]"));
    if (row && hearTake) {
      const response = await fetch(row.dataset.notes ?? "");
      if (!response.ok) return say(gettext("This take cannot be heard now."));
      hear(/** @type {"take" | "both"} */ (hearTake.getAttribute("data-hear-take")), await response.json());
    } else if (row && pass) {
      const way = /** @type {"over" | "replace"} */ (pass.getAttribute("data-pass"));
      /** @type {HTMLElement} */ (pass).blur();
      record({ takeId: row.dataset.take ?? "", way });
    } else if (step) {
      const { fromBar, toBar, hand, lanes, percent } = step.dataset;
      const mine = hand ? [hand] : (lanes ?? "").split(",").filter(Boolean);
      const bpm = (data.bpm * Number(percent)) / 100;
      step.blur();
      how.set(Number(fromBar), Number(toBar), mine, bpm);
      practise(Number(step.dataset.rung), how.bpm);
    }
  });

  how.chooseOn(page);
  if (asked) {
    how.set(asked.from, asked.to, asked.mine, asked.bpm);
    say(interpolate(gettext("Set: bars %(from)s to %(to)s at %(bpm)s. Press Practise."), how.chosen, true));
  }
  check.chooseSource();
  root.dataset.ready = "yes";
}

const root = /** @type {HTMLElement | null} */ (document.querySelector("[data-stand]"));
if (root) start(root);
