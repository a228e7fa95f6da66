/** A page on which nothing stands: for scripts that look at it as they begin. */
globalThis.document ??= /** @type {any} */ ({
  cookie: "", activeElement: null, addEventListener: () => {}, removeEventListener: () => {}, querySelector: () => null, querySelectorAll: () => [],
  getElementById: () => null, createElement: () => ({}), body: { addEventListener: () => {}, children: [] },
});
