/** The Stand: check the input, hear the part, record, send, listen back. */
import { Cursor } from "../../common/js/cursor.js";
import { isForControl, pageData } from "../../common/js/main.js";
import { Player } from "../../common/js/player.js";
import { CHANNEL_DRUMS, CHANNEL_LIVE, CHANNEL_PART, Sound } from "../../common/js/sound.js";
import { Clock } from "./clock.js";
import { drawKeyboard, drawPads, pitchName, showKey } from "./instrument.js";
import { Outbox } from "./outbox.js";
import { Recorder } from "./recorder.js";
import { MidiSource, RobotSource, ScreenSource, TypingSource } from "./sources.js";

const NOTE_ON = 0x90;
const NOTE_OFF = 0x80;
const SOURCE_KEY = "oido-source";

/** @param {HTMLElement} root */
function start(root) {
  const data = pageData("playing");
  const isDrums = data.kind === "drums";
  /** @returns {any} */
  const find = (/** @type {string} */ what) => root.querySelector(`[data-${what}]`);
  const [choice, answer, lastNote, state] = ["source", "answer", "last-note", "state"].map(find);
  const [recordButton, hearButton, beats, instrument] = ["record", "hear-part", "beats", "instrument"].map(find);
  const sound = new Sound({ worklet: root.dataset.worklet ?? "", bank: root.dataset.bank ?? "" });
  const clock = new Clock(sound.context);
  const cursor = new Cursor(/** @type {Element} */ (document.querySelector("[data-page-view]")), data.bars);
  const player = new Player(sound, data, cursor, (isPlaying) => {
    hearButton.textContent = isPlaying ? gettext("Stop") : gettext("Hear the part");
  });
  const pitches = data.target.map((/** @type {number[]} */ note) => note[2]);
  const name = (/** @type {number} */ pitch) =>
    isDrums
      ? (data.pads.find((/** @type {any} */ pad) => pad.pitch === pitch)?.name ?? `pad ${pitch}`)
      : pitchName(pitch, data.fifths, data.middleC);
  const layout = new Map(/** @type {[string, number][]} */ (Object.entries(data.layout)));

  /** @type {any} */
  let source = null;
  let recordedAt = new Date();

  const recorder = new Recorder(sound, clock, data.bars, data.countInBars, {
    onBeat: showBeat,
    onPosition: (second) => cursor.show(second),
    onEnd: finished,
  });
  recorder.click = data.click;
  if (data.backing) {
    recorder.backing = data.backing.notes;
    recorder.backingLevel = data.backing.level;
    recorder.backingChannel = data.backing.isDrums ? CHANNEL_DRUMS : CHANNEL_PART;
  }
  const outbox = new Outbox(
    root.dataset.user ?? "",
    (waiting, why) => {
      find("outbox").textContent = waiting
        ? interpolate(
            ngettext(
              "One take is kept here, not yet sent: %(why)s. It will be sent by itself.",
              "%(n)s takes are kept here, not yet sent: %(why)s. They will be sent by themselves.",
              waiting,
            ),
            { n: waiting, why: why || gettext("sending") },
            true,
          )
        : "";
    },
    (parcel, html) => {
      if (parcel.url !== root.dataset.upload) return;
      const takes = document.getElementById("takes");
      if (takes) takes.outerHTML = html;
      say(gettext("Take stored."));
    },
  );

  /** @param {string} words */
  function say(words) {
    state.textContent = words;
  }

  /** @param {NoteInput} input */
  function receive(input) {
    const [status, pitch, velocity] = input.bytes;
    const kind = status & 0xf0;
    const isOn = kind === NOTE_ON && velocity > 0;
    sound.play([[0, kind | (isDrums ? CHANNEL_DRUMS : CHANNEL_LIVE), pitch, velocity]]);
    recorder.receive(input);
    if (isOn) showNote(pitch, velocity);
    if (kind === NOTE_ON || kind === NOTE_OFF) showKey(instrument, pitch, isOn);
  }

  /** @param {number} pitch @param {number} velocity */
  function showNote(pitch, velocity) {
    if (!recorder.isRecording) {
      answer.textContent = interpolate(
        gettext("%(source)s answers: %(note)s, %(velocity)s"),
        { source: choice.selectedOptions[0].textContent, note: name(pitch), velocity },
        true,
      );
      answer.dataset.answers = "yes";
    }
    const bar = document.createElement("i");
    bar.style.width = `${(100 * velocity) / 127}%`;
    const box = document.createElement("span");
    box.className = "velocity";
    box.append(bar);
    lastNote.replaceChildren(`${name(pitch)} ${velocity} `, box);
  }

  async function chooseSource() {
    source?.stop();
    answer.dataset.answers = "no";
    lastNote.textContent = "";
    const robotChoice = find("robot-choice");
    if (robotChoice) robotChoice.hidden = choice.value !== "robot";
    source = {
      midi: () => new MidiSource(receive, (words) => (answer.textContent = words)),
      typing: () => new TypingSource(layout, receive),
      screen: () => new ScreenSource(instrument, receive),
      robot: () => new RobotSource(root.dataset.robot ?? "", () => find("robot-habits").value, receive),
    }[/** @type {"midi" | "typing" | "screen" | "robot"} */ (choice.value)]();
    instrument.hidden = !["typing", "screen"].includes(choice.value);
    const chosen = source;
    const words = await chosen
      .start()
      .catch((/** @type {unknown} */ error) => (error instanceof Error ? error.message : String(error)));
    // Another source may have been chosen, or may have answered, while this one was getting ready.
    if (source === chosen && answer.dataset.answers === "no") answer.textContent = words;
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

  async function record() {
    if (recorder.isRecording) return;
    if (document.querySelector("[data-no-more-takes]")) return say(gettext("All takes that this exercise allows are recorded. Hand one in."));
    player.stop();
    recordButton.disabled = true;
    try {
      say(gettext("Getting the sounds ready …"));
      await sound.open();
      await source?.prepare?.();
      recordedAt = new Date();
      find("warning").textContent = "";
      say(gettext("Count-in"));
      root.classList.add("is-recording");
      const downbeatMs = await recorder.start();
      root.dataset.downbeatMs = String(downbeatMs);
      source?.perform?.(downbeatMs);
    } catch (error) {
      root.classList.remove("is-recording");
      say(interpolate(gettext("Could not record: %(why)s"), { why: error instanceof Error ? error.message : error }, true));
    } finally {
      recordButton.disabled = false;
      recordButton.textContent = recorder.isRecording ? gettext("Stop") : gettext("Record");
    }
  }

  /** @param {RawEvent[]} events @param {boolean} wasWhole */
  function finished(events, wasWhole) {
    if (choice.value === "robot") source?.stop();
    root.classList.remove("is-recording");
    delete root.dataset.downbeatMs;
    recordButton.textContent = gettext("Record");
    beats.replaceChildren();
    cursor.hide();
    if (events.length === 0) {
      say(wasWhole ? gettext("Nothing was heard, so nothing is kept. Check the input and record again.") : gettext("Stopped; nothing is kept."));
      return;
    }
    const stumbled = recorder.disturbanceMs;
    find("warning").textContent = stumbled
      ? interpolate(
          gettext(
            "The sound of this computer stumbled by %(ms)s ms while you played, so timing may look worse than it was. Close what is busy and record again.",
          ),
          { ms: Math.round(stumbled) },
          true,
        )
      : "";
    say(gettext("Sending the take …"));
    const id = crypto.randomUUID();
    outbox.add({
      id,
      user: root.dataset.user ?? "",
      url: root.dataset.upload ?? "",
      body: {
        id,
        part: data.part,
        source: choice.value,
        device: source?.device ?? "",
        latency_ms: 0,
        recorded_at: recordedAt.toISOString(),
        events,
      },
    });
  }

  async function hear(/** @type {"target" | "take"} */ what) {
    try {
      say(sound.isReady ? "" : gettext("Getting the sounds ready …"));
      await player.play({ what, from: 1, to: data.bars.length, rate: 1, loop: false, click: false });
      say("");
    } catch (error) {
      say(interpolate(gettext("No sound: %(why)s. Reload the page to try again."), { why: error instanceof Error ? error.message : error }, true));
    }
  }

  const stopOrHear = () => {
    if (recorder.isRecording) recorder.stop();
    else if (player.isPlaying) player.stop();
    else hear("target");
  };

  recordButton.addEventListener("click", () => (recorder.isRecording ? recorder.stop() : record()));
  hearButton.addEventListener("click", stopOrHear);
  choice.addEventListener("change", () => {
    localStorage.setItem(SOURCE_KEY, choice.value);
    chooseSource();
  });
  document.addEventListener("keydown", (event) => {
    // While recording, Space stops whatever has the focus: the hands are elsewhere.
    if (isForControl(event) && !(recorder.isRecording && event.code === "Space")) return;
    if (event.code === "Space") {
      event.preventDefault();
      stopOrHear();
    } else if (event.code === "Enter" && !recorder.isRecording) {
      event.preventDefault();
      record();
    }
  });
  document.addEventListener("pointerdown", () => sound.open().catch(() => {}), { once: true });
  document.addEventListener("keydown", () => sound.open().catch(() => {}), { once: true });
  root.addEventListener("click", async (event) => {
    const button = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-hear-take]"));
    if (!button) return;
    const response = await fetch(button.dataset.hearTake ?? "");
    if (!response.ok) return say(gettext("This take cannot be heard now."));
    data.take = (await response.json()).take;
    hear("take");
  });

  const kept = localStorage.getItem(SOURCE_KEY);
  if (kept && [...choice.options].some((/** @type {HTMLOptionElement} */ option) => option.value === kept)) choice.value = kept;
  chooseSource();
  if (isDrums) drawPads(instrument, data.pads, layout);
  else drawKeyboard(instrument, pitches, layout, name);
}

const root = /** @type {HTMLElement | null} */ (document.querySelector("[data-stand]"));
if (root) start(root);
