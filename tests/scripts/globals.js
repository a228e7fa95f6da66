/** What pages give to scripts, as far as the scripts under test ask for it. */
globalThis.window ??= /** @type {any} */ (globalThis);
globalThis.location ??= /** @type {any} */ ({ search: "" });
globalThis.gettext ??= (words) => words;
globalThis.pgettext ??= (_context, words) => words;
globalThis.ngettext ??= (one, many, count) => (count === 1 ? one : many);
globalThis.interpolate ??= (words, values) => words.replace(/%\((\w+)\)s/g, (_, name) => values[name]);
globalThis.requestAnimationFrame ??= /** @type {any} */ ((act) => setTimeout(act, 0));
globalThis.addEventListener ??= /** @type {any} */ (() => {});
globalThis.removeEventListener ??= /** @type {any} */ (() => {});
// What a page does now and then does not keep the tests waiting.
const everySoOften = globalThis.setInterval;
globalThis.setInterval = /** @type {any} */ ((act, ms) => everySoOften(act, ms).unref());
