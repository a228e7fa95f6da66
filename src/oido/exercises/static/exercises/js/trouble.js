/** The results of the exercise over its bars: those that many have trouble with are tinted like the row in the margin. */
document.body.addEventListener("htmx:afterSettle", () => {
  for (const mark of document.querySelectorAll("[data-trouble-bar]")) {
    const bar = document.querySelector(`[data-page-view] [data-bar="${mark.getAttribute("data-trouble-bar")}"]`);
    bar?.setAttribute("data-trouble", mark.getAttribute("data-step") ?? "0");
  }
});
