/** The page of music laid out for the screen it is on: where a row of many bars could not be pointed at, it has fewer. */
import { inTurn, work } from "./ask.js";
import { forget } from "./looking.js";
import { music } from "./page.js";

const NARROW_PX = 520;
const SETTLED_MS = 150;
const YEAR_S = 365 * 24 * 3600;
let timer = 0;

const wanted = () => ((music().parentElement?.clientWidth ?? NARROW_PX) < NARROW_PX ? "narrow" : "wide");

/** All rows anew; the next page that is opened is laid out so at once. */
async function fit() {
  const layout = wanted();
  if (music().dataset.layout === layout) return;
  document.cookie = `page-layout=${layout}; path=/; max-age=${YEAR_S}; samesite=lax`;
  await inTurn(async () => {
    forget();
    music().dataset.layout = layout;
    await htmx.ajax("GET", `${work().dataset.url}rows/`, { target: "#pick", swap: "outerHTML settle:0ms", values: {} });
  });
}

export function keepFitted() {
  window.addEventListener("resize", () => {
    window.clearTimeout(timer);
    timer = window.setTimeout(fit, SETTLED_MS);
  });
  fit();
}
