/** The line that says what is kept here and not yet sent. */
import { midiFile } from "./midi_file.js";
import { Outbox } from "./outbox.js";

/** Where parcels go. @typedef {Pick<Outbox, "keep" | "add" | "drop">} Sink */

/** @param {HTMLElement} root with the line, and whose person it is
 * @param {(words: string, tray: string) => void} onSent `tray`: the list of takes as it is now */
export function startOutbox(root, onSent) {
  const line = /** @type {HTMLElement} */ (root.querySelector("[data-outbox]"));
  const outbox = new Outbox(
    root.dataset.user ?? "",
    ({ waiting, why, refused }) => {
      const words = waiting
        ? interpolate(
            ngettext(
              "One take is kept here and will be sent automatically. %(why)s",
              "%(n)s takes are kept here and will be sent automatically. %(why)s",
              waiting,
            ),
            { n: waiting, why: why || gettext("Sending …") },
            true,
          )
        : "";
      line.replaceChildren(words, ...refused.map((parcel) => refusal(outbox, parcel)));
    },
    (parcel, html) => {
      const isOfThisPage = parcel.url === root.dataset.upload || document.querySelector(`[data-take="${parcel.url.split("/")[2]}"]`) || html.includes(`"${root.dataset.tray}`);
      if (isOfThisPage) onSent(gettext("Take stored."), html);
    },
  );
  return outbox;
}

/** For who looks at a Stand as a student would: what is played goes nowhere. @param {(words: string) => void} onSent
 * @returns {Sink} */
export function nowhere(onSent) {
  const nothing = async () => undefined;
  return { keep: nothing, drop: nothing, add: async () => void window.setTimeout(() => onSent(gettext("This is where a student’s take would be saved. Yours was not."))) };
}

/** @param {Outbox} outbox @param {Parcel} parcel */
function refusal(outbox, parcel) {
  const place = document.createElement("p");
  const words = interpolate(gettext("One take could not be sent. %(why)s It is still kept in this browser."), { why: parcel.why }, true);
  const remove = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: pgettext("button", "Delete") });
  remove.addEventListener("click", () => outbox.drop(parcel.id));
  place.append(words, " ", download(parcel), " ", remove);
  return place;
}

/** @param {Parcel} parcel */
function download(parcel) {
  const events = /** @type {RawEvent[]} */ (parcel.body.events ?? []);
  const link = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: gettext("Download") });
  link.addEventListener("click", () => {
    const url = URL.createObjectURL(new Blob([/** @type {any} */ (midiFile(events))], { type: "audio/midi" }));
    Object.assign(document.createElement("a"), { href: url, download: `take-${String(parcel.body.recorded_at).slice(0, 16).replace(/[^0-9]/g, "-")}.mid` }).click();
    window.setTimeout(() => URL.revokeObjectURL(url));
  });
  return link;
}
