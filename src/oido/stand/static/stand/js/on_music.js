/** A take drawn on the Stand's own music, in place of the part alone; and two takes beside each other, without leaving the page. */
import { isPlayed, numberOf } from "../../common/js/note_place.js";
import { ask } from "../../common/js/signed_out.js";

export class OnMusic {
  /**
   * @param {{root: HTMLElement, find: (what: string) => any, cursor: import("../../common/js/cursor.js").Cursor,
   *   onHear(row: HTMLElement): void}} needs
   */
  constructor(needs) {
    this.needs = needs;
    this.place = /** @type {HTMLElement} */ (needs.find("music-take"));
    this.music = /** @type {HTMLElement} */ (needs.root.querySelector(".music"));
    this.page = needs.cursor.page;
    this.shown = "";
    needs.root.addEventListener("click", (event) => {
      const target = /** @type {Element} */ (event.target);
      const wanted = target.closest("[data-on-music]")?.getAttribute("data-on-music");
      if (wanted) this.show(wanted);
      else if (target.closest("[data-part-alone]")) this.hide();
      else if (target.closest("[data-hit]")) this.offer(target.closest("[data-hit]")?.getAttribute("data-hit") ?? "");
      else if (target.closest("[data-hear-shown]")) this.hear(target.closest("[data-hear-shown]")?.getAttribute("data-hear-shown") ?? "");
      else if (target.closest("[data-close-beside]")) /** @type {HTMLDialogElement} */ (needs.find("beside")).close();
    });
    needs.root.addEventListener("submit", (event) => {
      const form = /** @type {HTMLFormElement} */ (event.target);
      if (!form.matches("[data-compare]")) return;
      event.preventDefault();
      this.compare(`${form.action}?${new URLSearchParams(/** @type {any} */ (new FormData(form)))}`);
    });
  }

  /** @param {string} address where the take is drawn on the part */
  async show(address) {
    const drawing = await this.read(address);
    if (drawing) this.put(address, drawing);
  }

  /** @param {string} address @returns {Promise<string>} the drawing; empty if it cannot be had now */
  async read(address) {
    const response = await ask(address).catch(() => null);
    return response?.ok ? response.text() : "";
  }

  /** @param {string} address @param {string} drawing */
  put(address, drawing) {
    this.shown = address;
    this.place.innerHTML = drawing;
    // The part has the same notes under the same names.
    for (const element of this.place.querySelectorAll("[id]")) {
      if (isPlayed(element)) element.setAttribute("data-hit", numberOf(element));
      element.removeAttribute("id");
    }
    this.place.hidden = false;
    this.music.hidden = true;
    this.needs.cursor.page = /** @type {Element} */ (this.place.querySelector("svg"));
    const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    this.place.scrollIntoView({ block: "nearest", behavior: calm ? "auto" : "smooth" });
  }

  hide() {
    this.place.hidden = true;
    this.place.replaceChildren();
    this.music.hidden = false;
    this.needs.cursor.page = this.page;
  }

  /** One hit is offered to be taken out. @param {string} number */
  offer(number) {
    const place = /** @type {HTMLElement | null} */ (this.place.querySelector("[data-hit-place]"));
    if (!place) return;
    // It is the address of hit 0.
    const address = (place.dataset.hitPlace ?? "").replace("/0/", `/${number}/`);
    for (const hit of this.place.querySelectorAll(".is-picked")) hit.classList.remove("is-picked");
    this.place.querySelector(`[data-hit="${number}"]`)?.classList.add("is-picked");
    const button = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: gettext("Remove this hit") });
    button.addEventListener("click", async () => {
      await htmx.ajax("POST", address, { target: "#takes", swap: "outerHTML", values: {} });
      await this.show(this.shown);
    });
    place.replaceChildren(button);
    button.focus();
  }

  /** @param {string} take */
  hear(take) {
    const row = /** @type {HTMLElement | null} */ (document.querySelector(`[data-take="${take}"]`));
    if (row) this.needs.onHear(row);
  }

  /** @param {string} address */
  async compare(address) {
    const response = await ask(address).catch(() => null);
    if (!response?.ok) return window.location.assign(address);
    const page = new DOMParser().parseFromString(await response.text(), "text/html");
    const dialog = /** @type {HTMLDialogElement} */ (this.needs.find("beside"));
    const [title, music, figures] = ["h1", ".compared", ".compared-figures"].map((what) => page.querySelector(what));
    for (const button of music?.querySelectorAll("button") ?? []) button.remove();
    for (const element of music?.querySelectorAll("[id]") ?? []) element.removeAttribute("id");
    const whole = Object.assign(document.createElement("a"), { href: address, className: "word", textContent: gettext("Open on a page where you can hear both") });
    dialog.querySelector("[data-beside-place]")?.replaceChildren(...[title, figures, music, whole].filter((one) => one !== null));
    dialog.showModal();
  }
}
