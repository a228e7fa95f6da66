/** On a student's first page, too, what is kept here is sent. */
import { startOutbox } from "./outbox_line.js";

const root = /** @type {HTMLElement | null} */ (document.querySelector("[data-outbox-home]"));
if (root) startOutbox(root, () => {});
