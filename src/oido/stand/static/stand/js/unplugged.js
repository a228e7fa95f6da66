/** The instrument is gone while somebody plays: said in the middle of the page, and the player says how it goes on. */

export class Unplugged {
  /** @param {StandParts} parts */
  constructor(parts) {
    this.parts = parts;
    const { find } = parts;
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
    const { find, view, machine } = this.parts;
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
    await this.parts.check.change(kind);
    this.parts.view.drawKeys();
  }

  /** @param {boolean} isKept */
  end(isKept) {
    this.close();
    const { recording } = this.parts;
    if (isKept) recording.stop("unplugged");
    else recording.drop();
  }
}
