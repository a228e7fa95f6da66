/** The instrument is gone while somebody plays: said in the middle of the page, and the player says how it goes on. */

export class Unplugged {
  /**
   * @param {{find: (what: string) => any, machine: import("./machine.js").Machine, view: import("./playing_view.js").PlayingView,
   *   check: import("./input_check.js").InputCheck, onEnd(isKept: boolean): void}} needs
   */
  constructor(needs) {
    this.needs = needs;
    const { find } = needs;
    this.place = /** @type {HTMLDialogElement} */ (find("unplugged"));
    find("wait-for-it").addEventListener("click", () => this.close());
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (this.place.querySelectorAll("[data-go-on-with]"))) {
      button.addEventListener("click", () => this.goOnWith(button.dataset.goOnWith ?? ""));
    }
    find("end-here").addEventListener("click", () => this.end(true));
    find("drop-it").addEventListener("click", () => this.end(false));
  }

  /** @param {string} name of the instrument */
  tell(name) {
    const { find, view, machine } = this.needs;
    if (!machine.isRecording) return;
    find("unplugged-what").textContent = interpolate(gettext("%(name)s was unplugged in bar %(bar)s."), { name, bar: view.barAt(view.second).number }, true);
    if (!this.place.open) this.place.showModal();
    find("wait-for-it").focus();
  }

  close() {
    if (this.place.open) this.place.close();
  }

  /** @param {string} kind of source */
  async goOnWith(kind) {
    this.close();
    await this.needs.check.change(kind);
    this.needs.view.drawKeys();
  }

  /** @param {boolean} isKept */
  end(isKept) {
    this.close();
    this.needs.onEnd(isKept);
  }
}
