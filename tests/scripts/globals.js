/** What pages give to scripts, as far as the scripts under test ask for it. */
globalThis.window ??= /** @type {any} */ ({ setInterval: () => 0, location: { search: "" } });
globalThis.gettext ??= (words) => words;
globalThis.pgettext ??= (_context, words) => words;
globalThis.interpolate ??= (words, values) => words.replace(/%\((\w+)\)s/g, (_, name) => values[name]);
