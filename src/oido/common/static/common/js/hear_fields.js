/** Fields that are heard one by one: takes, or bars of takes, of which a page shows many. */
import { ask } from "./signed_out.js";
import { Player } from "./player.js";
import { Sound } from "./sound.js";

const foot = /** @type {HTMLElement | null} */ (document.querySelector("[data-fields-player]"));
if (foot) start(foot);

/** @param {HTMLElement} foot */
function start(foot) {
  const sound = new Sound();
  const stop = /** @type {HTMLButtonElement} */ (foot.querySelector("[data-stop]"));
  const state = /** @type {HTMLElement} */ (foot.querySelector("[data-sound-state]"));
  const find = (/** @type {string} */ what) => /** @type {HTMLInputElement | null} */ (foot.querySelector(what));
  /** @type {Map<string, Playing>} what was fetched, by address */
  const known = new Map();
  /** @type {Player | null} */
  let player = null;
  /** Stopped by hand: what would come next does not. */
  let isStopped = false;

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

  /** Several takes one after the other, the same bars of each. @param {HTMLElement} field @param {string[]} urls */
  async function hearInTurn(field, urls) {
    const [url, ...others] = urls;
    const data = await notes(url);
    // The bars that the field names; else all.
    const named = field.dataset.hearBar?.split("-").map(Number) ?? [data.bars[0].number, data.bars[data.bars.length - 1].number];
    const own = new Player(sound, data, null, (isPlaying) => {
      stop.disabled = !isPlaying;
      field.classList.toggle("is-heard", isPlaying);
      if (!isPlaying && others.length > 0 && player === own && !isStopped) hearInTurn(field, others);
    });
    player = own;
    if (!sound.isReady) state.textContent = gettext("Getting the sounds ready …");
    const source = /** @type {PlayOrder["what"]} */ (find("[name=what]:checked")?.value ?? "take");
    await own.play({ what: source, from: named[0], to: named[named.length - 1], rate: 1, loop: false, click: find("[data-click]")?.checked ?? false });
    state.textContent = field.getAttribute("aria-label") ?? "";
  }

  /** @param {HTMLElement} field */
  async function hear(field) {
    isStopped = true;
    player?.stop();
    isStopped = false;
    for (const other of document.querySelectorAll("[data-hear-take].is-heard")) other.classList.remove("is-heard");
    try {
      await hearInTurn(field, (field.dataset.hearTake ?? "").split(" "));
    } catch (error) {
      state.textContent = interpolate(gettext("No sound (%(why)s). Reload the page to try again."), { why: error instanceof Error ? error.message : error }, true);
    }
  }

  stop.addEventListener("click", () => {
    isStopped = true;
    player?.stop();
  });
  document.addEventListener("click", (event) => {
    const field = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-hear-take]"));
    if (field) hear(field);
  });
}
