/**
 * What is printed on the keys of this computer. Notes lie on places of the keyboard, which browsers name by their codes; what
 * is printed there differs from country to country. In order: the keyboard that was chosen here, what was typed, what the
 * browser says, and the keyboard of the browser's language.
 */
const KEPT = "oido-keyboard";
const SIGNS = { Semicolon: ";", Quote: "'", Comma: ",", Period: ".", Slash: "/", BracketLeft: "[", BracketRight: "]", Minus: "-", Backslash: "\\", IntlBackslash: "<" };

/** Where a keyboard differs from the American one. @type {Record<string, Record<string, string>>} */
export const KEYBOARDS = {
  us: {},
  uk: { Backslash: "#", IntlBackslash: "\\" },
  de: { KeyY: "Z", KeyZ: "Y", Semicolon: "Ö", Quote: "Ä", BracketLeft: "Ü", BracketRight: "+", Minus: "ß", Slash: "-", Backslash: "#" },
  fr: { KeyQ: "A", KeyA: "Q", KeyW: "Z", KeyZ: "W", Semicolon: "M", KeyM: ",", Comma: ";", Period: ":", Slash: "!", Quote: "Ù", BracketLeft: "^", BracketRight: "$", Minus: ")", Backslash: "*" },
  es: { Semicolon: "Ñ", Quote: "´", BracketLeft: "`", BracketRight: "+", Minus: "'", Slash: "-", Backslash: "Ç" },
};

/** @type {Map<string, string>} */
const typed = new Map();
/** @type {Map<string, string> | null} */
let browser = null;

/** Once the browser has said what it knows. */
export const known = (async () => {
  const keyboard = /** @type {any} */ (globalThis.navigator)?.keyboard;
  browser = (await keyboard?.getLayoutMap?.().catch(() => null)) ?? null;
})();

/** The keyboard that was chosen on this computer; empty for none. */
export function chosenKeyboard() {
  return globalThis.localStorage?.getItem(KEPT) ?? "";
}

/** @param {string} name of a keyboard; empty to go by the browser */
export function chooseKeyboard(name) {
  if (name) localStorage.setItem(KEPT, name);
  else localStorage.removeItem(KEPT);
}

/** A letter that was typed says what is printed on its key. @param {KeyboardEvent} event @returns {boolean} is it news? */
export function learn({ code, key, shiftKey, ctrlKey, altKey, metaKey }) {
  if (shiftKey || ctrlKey || altKey || metaKey || key.trim().length !== 1 || code.startsWith("Digit")) return false;
  const letter = key.toUpperCase();
  const isNews = letterOf(code) !== letter;
  typed.set(code, letter);
  return isNews && letterOf(code) === letter;
}

function languageKeyboard() {
  const language = globalThis.navigator?.language ?? "";
  return language === "en-GB" ? "uk" : (["de", "fr", "es"].find((one) => language.startsWith(one)) ?? "us");
}

/** What is printed on a key. @param {string} code */
export function letterOf(code) {
  const plain = /** @type {Record<string, string>} */ (SIGNS)[code] ?? code.replace(/^Key|^Digit/, "");
  const chosen = KEYBOARDS[chosenKeyboard()];
  if (chosen) return chosen[code] ?? plain;
  return typed.get(code) ?? browser?.get(code)?.toUpperCase() ?? KEYBOARDS[languageKeyboard()][code] ?? plain;
}
