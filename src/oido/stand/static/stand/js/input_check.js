/** The input check: which source, does it answer, what to do when nothing arrives. */
import { chooseKeyboard, chosenKeyboard, known, learn, letterOf } from "../../common/js/playing/key_letters.js";
import { keep, read } from "./settings.js";
import { SOURCES } from "../../common/js/playing/sources.js";
import { ALL, hasDevices, midiPermission } from "../../common/js/playing/sources/midi.js";
import { isTyping } from "../../common/js/main.js";

/** So long nothing came: then it is said what can be done. */
const SILENT_MS = 8000;
const THREE = 3;

export class InputCheck {
  /**
   * @param {HTMLElement} root @param {StandData} data @param {HTMLElement} surface of on-screen keys
   * @param {{onInput(input: NoteInput): void, onSource(kind: string): void, onLost(name: string): void, onLayout(layout: Map<string, number>): void, name(pitch: number): string, isFree(): boolean}} listeners
   *   `isFree`: is nothing being recorded or practised?
   */
  constructor(root, data, surface, listeners) {
    this.root = root;
    this.data = data;
    this.surface = surface;
    this.listeners = listeners;
    this.layout = new Map(Object.entries(data.layout));
    /** @type {any} */
    this.source = null;
    this.choice = /** @type {HTMLSelectElement} */ (this.find("source"));
    /** Did somebody choose before this script ran? The page is there earlier. */
    this.isChosen = this.choice.selectedIndex > 0;
    this.timer = 0;
    /** @type {() => void} ends the test of three keys, if there is one */
    this.endTest = () => {};
    this.choice.addEventListener("change", () => {
      keep("source", this.choice.value);
      this.chooseSource();
    });
    this.find("device").addEventListener("change", (/** @type {Event} */ event) =>
      this.chooseDevice(/** @type {HTMLSelectElement} */ (event.target)),
    );
    this.find("three-keys").addEventListener("click", () => this.testThree());
    this.showPrinted();
    known.then(() => this.relabel());
    const keyboard = /** @type {HTMLSelectElement} */ (this.find("keyboard"));
    keyboard.value = chosenKeyboard();
    keyboard.addEventListener("change", () => {
      chooseKeyboard(keyboard.value);
      this.relabel();
    });
    // A letter starts the typing keys, and a press on a drawn key starts these, as long as nothing else has answered.
    document.addEventListener("keydown", (event) => this.startedBy(event), { capture: true });
    surface.addEventListener("pointerdown", () => this.canStart("screen") && this.use("screen"), { capture: true });
  }

  /** May playing on another source start that source? Not while one that has answered is in use, and not while recording.
   * @param {string} kind */
  canStart(kind) {
    return this.kind !== kind && !this.row.isAlwaysReady && !(this.row.hasDevices && this.hasAnswered) && this.listeners.isFree();
  }

  /** Another source for now; what was chosen on this computer stays. @param {string} kind */
  use(kind) {
    this.choice.value = kind;
    return this.chooseSource();
  }

  /** @param {KeyboardEvent} event */
  startedBy(event) {
    if (learn(event)) this.relabel();
    if (isTyping(event) || event.repeat || document.querySelector("dialog[open]")) return;
    if (this.layout.has(event.code) && this.canStart("typing")) this.use("typing");
  }

  /** Begin with what is available: what was chosen on this computer before; a device, where there is one; typing keys, or the
   * drawn keys on a touch screen. */
  async begin() {
    if (this.isChosen) return this.change(this.kind);
    const hasTouchOnly = window.matchMedia("(pointer: coarse)").matches && !window.matchMedia("(any-pointer: fine)").matches;
    const kept = String(read("source", ""));
    const isKept = kept !== "midi" && [...this.choice.options].some((option) => option.value === kept);
    this.choice.value = isKept ? kept : hasTouchOnly ? "screen" : "typing";
    const ready = this.chooseSource();
    const permission = await midiPermission();
    // A telephone is not asked for instruments unasked; where they were allowed before, nobody is asked.
    const looked = !isKept && (permission === "granted" || !hasTouchOnly) ? this.lookForDevice() : null;
    // An answer that the student has yet to give is not waited for.
    if (permission === "granted") await looked;
    return ready;
  }

  /** Play on a device, if there is one. */
  async lookForDevice() {
    const first = this.kind;
    if (!(await hasDevices()) || this.kind !== first || !this.listeners.isFree()) return;
    await this.use("midi");
  }

  /** @param {string} what @returns {any} */
  find(what) {
    return this.root.querySelector(`[data-${what}]`);
  }

  /** @returns {RecordedBody["source"]} */
  get kind() {
    return /** @type {RecordedBody["source"]} */ (this.choice.value);
  }

  get device() {
    return this.source?.device ?? "";
  }

  get row() {
    return SOURCES[this.kind];
  }

  /** By its name: ids change from browser to browser. @param {HTMLSelectElement} choice */
  chooseDevice(choice) {
    keep("device", choice.value && choice.value !== ALL ? choice.selectedOptions[0].textContent : choice.value);
    this.source?.choose?.(choice.value);
  }

  /** Another source from now on. @param {string} kind */
  change(kind) {
    keep("source", kind);
    return this.use(kind);
  }

  /** Where the keys of this machine are now. @returns {Map<string, number>} */
  get currentLayout() {
    return this.source?.layout ?? this.layout;
  }

  /** Source and device in one word: what is measured for one is not true of another. */
  get setUp() {
    return `${this.kind}|${this.row.hasDevices ? this.device : ""}`;
  }

  /** What this page has for whichever source is chosen. @returns {import("../../common/js/playing/sources.js").Page} */
  get page() {
    return {
      receive: (input) => this.listeners.onInput(input),
      say: (words) => this.say(words),
      showState: (words) => this.showTyping(words),
      lost: (name) => this.listeners.onLost(name),
      device: String(read("device", "")),
      showDevices: (devices, chosen) => this.showDevices(devices, chosen),
      surface: this.surface,
      layout: this.layout,
      rows: this.data.typing,
      newLayout: (layout) => this.newLayout(layout),
      fixedVelocity: () => this.fixedStrength,
      robot: { url: this.root.dataset.robot ?? "", habits: () => this.find("robot-habits").value, key: () => String(this.data.fifths) },
    };
  }

  async chooseSource() {
    this.source?.stop();
    const { kind } = this;
    const answer = this.find("answer");
    answer.dataset.answers = "no";
    this.find("last-note").textContent = "";
    for (const place of /** @type {NodeListOf<HTMLElement>} */ (this.root.querySelectorAll("[data-for-source]"))) {
      place.hidden = place.dataset.forSource !== kind;
    }
    this.source = this.row.make(this.page);
    this.listeners.onSource(kind);
    this.listeners.onLayout(this.layout);
    const chosen = this.source;
    const words = await chosen.start().then(
      (/** @type {string} */ ready) => (delete answer.dataset.trouble, ready),
      (/** @type {unknown} */ error) => {
        answer.dataset.trouble = "yes";
        return error instanceof Error ? error.message : String(error);
      },
    );
    // Another source may have been chosen, or may have answered, while this one was getting ready.
    if (this.source === chosen && answer.dataset.answers === "no") this.say(words);
    this.waitForAnswer();
    this.showTyping("");
  }

  /** Has a note arrived from the source that is chosen, if it needs one? */
  get hasAnswered() {
    return this.row.isAlwaysReady || this.find("answer").dataset.answers === "yes";
  }

  /** @param {string} words */
  say(words) {
    this.find("answer").textContent = words;
  }

  waitForAnswer() {
    const help = this.find("no-answer");
    help.hidden = true;
    window.clearTimeout(this.timer);
    const lines = this.row.help();
    if (lines.length === 0) return;
    this.timer = window.setTimeout(() => {
      if (this.find("answer").dataset.answers === "yes") return;
      const list = document.createElement("ul");
      list.append(...lines.map((line) => Object.assign(document.createElement("li"), { textContent: line })));
      help.replaceChildren(Object.assign(document.createElement("p"), { textContent: gettext("Nothing has arrived yet.") }), list);
      help.hidden = false;
    }, SILENT_MS);
  }

  /** @param {number} pitch @param {number} velocity @param {boolean} isQuiet only the last note, not that the source answers */
  showNote(pitch, velocity, isQuiet) {
    // Also while one records, when nothing is said of it: the source has answered.
    const answer = this.find("answer");
    answer.dataset.answers = "yes";
    this.find("no-answer").hidden = true;
    if (!isQuiet) {
      this.say(interpolate(gettext("%(source)s answers: %(note)s, %(velocity)s"), { source: (this.row.hasDevices && this.device) || this.choice.selectedOptions[0].textContent, note: this.listeners.name(pitch), velocity }, true));
    }
    const bar = document.createElement("i");
    bar.style.width = `${(100 * velocity) / 127}%`;
    const box = document.createElement("span");
    box.className = "velocity";
    box.append(bar);
    this.find("last-note").replaceChildren(`${this.listeners.name(pitch)} ${velocity} `, box);
  }

  /** @param {import("../../common/js/playing/sources/midi.js").Device[]} devices @param {string} chosen */
  showDevices(devices, chosen) {
    const place = this.find("device-choice");
    place.hidden = devices.length < 2;
    const options = [{ id: "", name: gettext("the first that plays") }, ...devices, { id: ALL, name: gettext("all of them at once") }];
    this.find("device").replaceChildren(...options.map(({ id, name }) => new Option(name, id, false, id === chosen)));
    this.listeners.onSource(this.kind);
  }

  get fixedStrength() {
    const isFixed = /** @type {HTMLInputElement | null} */ (this.root.querySelector("[data-screen-touch][value=fixed]"))?.checked;
    return isFixed ? Math.min(127, Math.max(1, Number(this.find("screen-velocity").value) || 80)) : 0;
  }

  /** @param {Map<string, number>} layout */
  newLayout(layout) {
    this.listeners.onLayout(layout);
    this.showTyping(interpolate(gettext("home note %(name)s"), { name: this.listeners.name([...layout.values()][0]) }, true));
  }

  /** @param {string} words */
  showTyping(words) {
    this.find("instrument-state").textContent = words;
    this.find("typing-velocity").textContent = String(this.source?.baseVelocity ?? "");
  }

  /** Keys of the page as this machine prints them. */
  showPrinted() {
    for (const key of this.root.querySelectorAll("[data-key]")) key.textContent = letterOf(key.getAttribute("data-key") ?? "");
  }

  /** The letters are others than was thought: all that shows them is drawn anew. */
  relabel() {
    this.showPrinted();
    this.listeners.onLayout(this.currentLayout);
  }

  /** Three keys of one chord, held at once: many keyboards drop the third. */
  testThree() {
    const codes = [...this.layout.keys()].filter((_, k) => k % 2 === 0).slice(0, THREE);
    const letters = codes.map(letterOf);
    this.find("three-keys").blur();
    this.find("three-keys-state").textContent = interpolate(gettext("Hold %(keys)s, all at once, then let go."), { keys: letters.join(" + ") }, true);
    this.endTest();
    const seen = new Set();
    let most = 0;
    const down = (/** @type {KeyboardEvent} */ event) => {
      if (!codes.includes(event.code)) return;
      seen.add(event.code);
      most = Math.max(most, seen.size);
    };
    const up = (/** @type {KeyboardEvent} */ event) => {
      if (!codes.includes(event.code)) return;
      const missing = codes.filter((code) => !seen.has(code));
      stop();
      const words = most >= codes.length
        ? gettext("All three keys worked: you can play chords of three notes.")
        : interpolate(gettext("%(keys)s did not work: your keyboard cannot send these keys at the same time. Play chords on an instrument, or on the screen."), { keys: missing.map(letterOf).join(", ") }, true);
      this.find("three-keys-state").textContent = words;
    };
    const stop = () => {
      document.removeEventListener("keydown", down);
      document.removeEventListener("keyup", up);
    };
    this.endTest = stop;
    document.addEventListener("keydown", down);
    document.addEventListener("keyup", up);
  }
}
