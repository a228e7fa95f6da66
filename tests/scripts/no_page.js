/** A page on which nothing stands: for scripts that look at it as they begin. */
globalThis.document ??= /** @type {any} */ ({ addEventListener: () => {}, querySelector: () => null, getElementById: () => null, body: { addEventListener: () => {} } });
