/** Fields that are heard one by one: takes, or bars of takes, of which a page shows many. */
import { ask } from "./signed_out.js";
import { Player } from "./player.js";
import { Sound } from "./sound.js";

const foot = /** @type {HTMLElement | null} */ (document.querySelector("[data-fields-player]"));
if (foot) start(foot);

/** @param {HTMLElement} foot */
function start(foot) {
  const sound = new Sound({ worklet: foot.dataset.worklet ?? "", bank: foot.dataset.bank ?? "" });
  const stop = /** @type {HTMLButtonElement} */ (foot.querySelector("[data-stop]"));
  const state = /** @type {HTMLElement} */ (foot.querySelector("[data-sound-state]"));
  const find = (/** @type {string} */ what) => /** @type {HTMLInputElement | null} */ (foot.querySelector(what));
  /** @type {Map<string, Playing>} what was fetched, by address */
  const known = new Map();
  /** @type {Player | null} */
  let player = null;

  /** @param {string} url @returns {Promise<Playing>} */
  async function notes(url) {
    const had = known.get(url);
    if (had) return had;
    const response = await ask(url);
    if (!response.ok) throw new Error(String(response.status));
    const data = /** @type {Playing} */ (await response.json());
    known.set(url, data);
    return data;
  }

  /** @param {HTMLElement} field */
  async function hear(field) {
    player?.stop();
    for (const other of document.querySelectorAll("[data-hear-take].is-heard")) other.classList.remove("is-heard");
    try {
      const data = await notes(field.dataset.hearTake ?? "");
      // One bar, where the field names it; else all.
      const [from, to] = field.dataset.hearBar
        ? [Number(field.dataset.hearBar), Number(field.dataset.hearBar)]
        : [data.bars[0].number, data.bars[data.bars.length - 1].number];
      player = new Player(sound, data, null, (isPlaying) => {
        stop.disabled = !isPlaying;
        field.classList.toggle("is-heard", isPlaying);
      });
      if (!sound.isReady) state.textContent = gettext("Getting the sounds ready …");
      const what = /** @type {PlayOrder["what"]} */ (find("[name=what]:checked")?.value ?? "take");
      await player.play({ what, from, to, rate: 1, loop: false, click: find("[data-click]")?.checked ?? false });
      state.textContent = field.getAttribute("aria-label") ?? "";
    } catch (error) {
      state.textContent = interpolate(gettext("No sound: %(why)s. Reload the page to try again."), { why: error instanceof Error ? error.message : error }, true);
    }
  }

  stop.addEventListener("click", () => player?.stop());
  document.addEventListener("click", (event) => {
    const field = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-hear-take]"));
    if (field) hear(field);
  });
}
