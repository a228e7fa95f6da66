/** The foot line: play, what to hear, which bars, how fast. */
import { firstBar, lastBar } from "./bar_numbers.js";
import { ask } from "./signed_out.js";
import { Cursor } from "./cursor.js";
import { isForControl, isTyping, pageData } from "./main.js";
import { Marks } from "./marks.js";
import { Player } from "./player.js";
import { Sound } from "./sound.js";

/** @type {Sound | null} loaded once, whatever page is put in this one's place */
let sound = null;
let old = new AbortController();

function begin() {
  old.abort();
  old = new AbortController();
  const foot = /** @type {HTMLElement | null} */ (document.querySelector("[data-player]"));
  if (foot) start(foot, old.signal);
}

begin();
document.addEventListener("page-put", begin);

/** @param {HTMLElement} foot @param {AbortSignal} signal when another page's foot line takes over */
function start(foot, signal) {
  /** @type {Playing | null} */
  let data = pageData("playing");
  /** Where the part can change, the page says where its notes are to be had, and of which state. */
  const changing = () => /** @type {HTMLElement | null} */ (document.querySelector("[data-playing-url]"));
  let known = changing()?.dataset.playingState;
  const leastBar = () => (data ? firstBar(data.bars) : Number(changing()?.dataset.playingFirst ?? 1));
  const mostBar = () => (data ? lastBar(data.bars) : Number(changing()?.dataset.playingLast ?? 1));
  const find = (/** @type {string} */ what) => /** @type {HTMLInputElement} */ (foot.querySelector(what));
  const [button, from, to, rate] = ["[data-play]", "[data-from]", "[data-to]", "[data-rate]"].map(find);
  const state = /** @type {HTMLElement} */ (foot.querySelector("[data-sound-state]"));
  const [playWord, stopWord] = [button.textContent ?? "", pgettext("button", "Stop")];
  /** @type {Player | null} */
  let player = null;
  /** Not whole bars but from a note on, only some places or some notes, at a tempo of their own; until something else is chosen.
   * @type {Partial<Pick<PlayOrder, "start" | "places" | "only" | "rate">>} */
  let where = {};

  const whole = (/** @type {HTMLInputElement} */ input, /** @type {number} */ least, /** @type {number} */ most) => {
    const value = Math.min(most, Math.max(least, Math.round(Number(input.value) || least)));
    input.value = String(value);
    return value;
  };

  /** @returns {PlayOrder} */
  function order() {
    const last = mostBar();
    const first = whole(from, leastBar(), last);
    // What is looked at is what is heard.
    const laid = /** @type {HTMLSelectElement | null} */ (document.querySelector(".look [name=pass]"))?.value;
    const chosen = /** @type {HTMLInputElement | null} */ (foot.querySelector("[name=what]:checked"));
    return {
      what: /** @type {PlayOrder["what"]} */ (chosen?.value ?? "target"),
      from: first,
      to: Math.max(first, whole(to, first, last)),
      rate: whole(rate, 40, 120) / 100,
      loop: find("[data-loop]").checked,
      click: find("[data-click]").checked,
      apart: find("[data-apart]")?.checked ?? false,
      backing: find("[data-with-backing]")?.checked ? data?.backing : null,
      pass: laid ? Number(laid) - 1 : undefined,
      ...where,
    };
  }

  async function notes() {
    if (data) return data;
    const response = await ask(changing()?.dataset.playingUrl ?? "");
    if (!response.ok) throw new Error(String(response.status));
    data = /** @type {Playing} */ (await response.json());
    return data;
  }

  async function play() {
    try {
      await start();
    } catch (error) {
      state.textContent = interpolate(gettext("No sound (%(why)s). Reload the page to try again."), { why: error instanceof Error ? error.message : error }, true);
    }
  }

  async function start() {
    const now = await notes();
    if (!player) {
      const page = document.querySelector("[data-page-view]");
      sound ??= new Sound();
      player = new Player(sound, now, page ? new Cursor(page, now.bars) : null, (isPlaying) => {
        button.textContent = isPlaying ? stopWord : playWord;
        foot.dataset.playing = isPlaying ? "yes" : "no";
      });
    }
    if (!player.sound.isReady) state.textContent = gettext("Getting the sounds ready …");
    await player.play(order());
    state.textContent = "";
  }

  // From here on button and keys are answered.
  button.disabled = false;
  foot.dataset.playing = "no";
  const toggle = () => (player?.isPlaying ? player.stop() : play());

  button.addEventListener("click", toggle);
  const faultsButton = find("[data-hear-faults]");
  faultsButton?.addEventListener("click", () => {
    choose(String(leastBar()), String(mostBar()));
    const faults = /** @type {Fault[]} */ (pageData("faults") ?? []);
    where = { places: faults.map(([, first, last]) => [first, last]) };
    play();
  });
  const marks = new Marks(/** @type {HTMLElement} */ (foot.querySelector("[data-marks]")), { bars: () => player?.data.bars ?? data?.bars ?? [], say: (words) => (state.textContent = words) });
  document.addEventListener("keydown", (event) => {
    const position = player?.position ?? null;
    if (event.key.toLowerCase() !== "x" || isTyping(event) || position === null) return;
    event.preventDefault();
    const next = event.shiftKey ? marks.after(position) : undefined;
    if (!event.shiftKey) marks.drop(position);
    else if (next) {
      choose(String(leastBar()), String(mostBar()));
      where = { start: next.second };
      play();
    }
  }, { signal });
  document.addEventListener("keydown", (event) => {
    if (event.code !== "Space" || isForControl(event)) return;
    event.preventDefault();
    toggle();
  }, { signal });
  signal.addEventListener("abort", () => player?.stop());
  document.body.addEventListener("htmx:afterSettle", () => {
    const now = changing()?.dataset.playingState;
    if (now === known) return;
    known = now;
    player?.stop();
    player = null;
    const wasFromTheStart = Number(from.value) <= Number(from.min);
    const wasToTheEnd = Number(to.value) >= Number(to.max);
    data = null;
    for (const input of [from, to]) [input.min, input.max] = [String(leastBar()), String(mostBar())];
    if (wasFromTheStart || Number(from.value) < leastBar()) from.value = String(leastBar());
    if (wasToTheEnd || Number(to.value) > mostBar()) to.value = String(mostBar());
  }, { signal });
  foot.addEventListener("change", (event) => {
    if (event.target === from || event.target === to) where = {};
    showChosen();
    if (player?.isPlaying) play();
  });
  document.addEventListener("click", (event) => {
    const target = /** @type {Element} */ (event.target);
    const hear = target.closest("[data-hear-bars]");
    // Where the music is worked on, a click in it says where one writes.
    const bar = target.closest("[data-bar]:not([data-is-worked-on] *)");
    const second = target.closest("[data-hear-from]")?.getAttribute("data-hear-from");
    const place = target.closest("[data-hear-place]")?.getAttribute("data-hear-place");
    if (second) {
      choose(String(leastBar()), String(mostBar()));
      where = { start: Number(second) };
      play();
    } else if (place) {
      const [first, last] = place.split(" ").map(Number);
      choose(String(leastBar()), String(mostBar()));
      where = { places: [[first, last]] };
      play();
    } else if (hear) {
      const [first, last] = (hear.getAttribute("data-hear-bars") ?? "1-1").split("-");
      choose(first, last);
      const only = hear.getAttribute("data-hear-only");
      const percent = hear.getAttribute("data-hear-percent");
      if (only !== null) where = { only: new Set(only.split(" ").filter(Boolean).map(Number)), rate: Number(percent) / 100 };
      play();
    } else if (bar) {
      choose(bar.getAttribute("data-bar") ?? "1", to.value);
      play();
    }
  }, { signal });

  document.addEventListener("hear-bars", (event) => {
    const [first, last] = /** @type {CustomEvent} */ (event).detail;
    choose(String(first), String(last));
    play();
  }, { signal });

  /** @param {string} first @param {string} last */
  function choose(first, last) {
    where = {};
    from.value = first;
    to.value = String(Math.max(Number(first), Number(last)));
    showChosen();
  }

  function showChosen() {
    const { from: first, to: last } = order();
    const all = first === leastBar() && last === mostBar();
    for (const place of document.querySelectorAll("[data-bar]")) {
      const number = Number(place.getAttribute("data-bar"));
      place.classList.toggle("is-chosen", !all && number >= first && number <= last);
    }
  }
}
