/* Prove: the next entry is in hand after a run or reading was kept; the seconds since the stop are counted here. */
(() => {
  "use strict";
  const first = (root) => root.querySelector("[data-first]");
  document.addEventListener("htmx:load", (event) => {
    const form = event.detail.elt;
    if (form.id === "run-form" || form.id === "reading-form") {
      (form.querySelector("[aria-invalid]") || first(form))?.focus();
      count(form);
    }
  });

  /* Stopped now: from then on each reading's seconds are written by themselves, until somebody types them. */
  let stopped = null;
  const count = (root) => {
    const entry = root.querySelector("[data-since]");
    if (!entry || stopped === null) return;
    entry.placeholder = String(Math.round((Date.now() - stopped) / 1000));
  };
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-stopped]")) return;
    stopped = Date.now();
    count(document);
    first(document.querySelector("#reading-form"))?.focus();
  });
  setInterval(() => count(document), 500);
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.elt.id === "reading-form" && stopped !== null && !event.detail.parameters.after)
      event.detail.parameters.after = String(Math.round((Date.now() - stopped) / 1000));
  });

  /* On the phone the rest before the next run counts down. */
  const rest = document.querySelector("[data-rest]");
  if (rest?.dataset.rest) {
    const until = Date.now() + Number(rest.dataset.rest) * 1000,
      words = rest.textContent;
    const tick = () => {
      const left = Math.max(0, Math.round((until - Date.now()) / 1000));
      rest.textContent = left
        ? `${words.trim()}: ${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")}`
        : "Rested";
    };
    tick();
    setInterval(tick, 1000);
  }
})();
