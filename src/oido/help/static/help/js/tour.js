/** A tour of the page: steps beside what they are about, to be left at any time. */
const GAP_PX = 12;

class Tour {
  /** @param {HTMLFormElement} form */
  constructor(form) {
    this.form = form;
    this.card = /** @type {HTMLElement} */ (form.querySelector("[data-tour-card]"));
    this.count = /** @type {HTMLElement} */ (form.querySelector("[data-tour-count]"));
    this.steps = /** @type {HTMLTemplateElement[]} */ ([...form.querySelectorAll("[data-tour-step]")]);
    this.words = /** @type {HTMLElement} */ (form.querySelector("[data-tour-place]"));
    this.at = 0;
    /** @type {Element | null} */
    this.target = null;
    const on = (/** @type {string} */ name, /** @type {() => void} */ act) =>
      form.querySelector(`[data-tour-${name}]`)?.addEventListener("click", act);
    on("begin", () => this.show(0));
    on("next", () => (this.at + 1 < this.steps.length ? this.show(this.at + 1) : this.leave()));
    on("back", () => this.show(this.at - 1));
    on("leave", () => this.leave());
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      this.leave();
    });
    // Keys of the page must not do anything while somebody reads a step.
    this.card.addEventListener("keydown", (event) => {
      event.stopPropagation();
      if (event.key === "Escape") this.leave();
    });
    addEventListener("resize", () => this.place());
    addEventListener("scroll", () => this.place(), { passive: true });
    if (form.dataset.wanted !== undefined) this.show(0);
  }

  /** @param {number} at which step */
  show(at) {
    this.at = at;
    this.words.replaceChildren(this.steps[at].content.cloneNode(true));
    this.count.textContent = interpolate(gettext("Step %(k)s of %(n)s"), { k: at + 1, n: this.steps.length }, true);
    const next = /** @type {HTMLElement} */ (this.form.querySelector("[data-tour-next]"));
    next.textContent = at + 1 < this.steps.length ? gettext("Next") : gettext("Done");
    /** @type {HTMLElement} */ (this.form.querySelector("[data-tour-back]")).hidden = at === 0;
    this.point(document.querySelector(this.steps[at].dataset.tourStep ?? ""));
    this.card.hidden = false;
    this.place();
    this.card.focus({ preventScroll: true });
  }

  /** @param {Element | null} target what the step is about */
  point(target) {
    this.target?.classList.remove("tour-target");
    this.target = target && target.getClientRects().length ? target : null;
    this.target?.classList.add("tour-target");
    this.target?.scrollIntoView({ block: "nearest", behavior: "instant" });
  }

  /** Put the card below what it is about, or above, or where there is room. */
  place() {
    if (this.card.hidden) return;
    const { clientWidth, clientHeight } = document.documentElement;
    const { offsetWidth: width, offsetHeight: height } = this.card;
    const about = this.target?.getBoundingClientRect();
    const below = about ? about.bottom + GAP_PX : clientHeight;
    const above = about ? about.top - GAP_PX - height : -1;
    const top = below + height <= clientHeight ? below : above >= 0 ? above : clientHeight - height - GAP_PX;
    const left = about ? about.left : (clientWidth - width) / 2;
    this.card.style.top = `${Math.max(GAP_PX, top)}px`;
    this.card.style.left = `${Math.max(GAP_PX, Math.min(left, clientWidth - width - GAP_PX))}px`;
  }

  /** Leave the tour, or decline it: it is not offered again. */
  leave() {
    this.point(null);
    void fetch(this.form.action, { method: "POST", body: new FormData(this.form) });
    this.form.remove();
    document.getElementById("main")?.focus({ preventScroll: true });
  }
}

const form = document.querySelector("[data-tour]");
if (form instanceof HTMLFormElement) new Tour(form);
