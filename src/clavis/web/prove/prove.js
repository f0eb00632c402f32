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

  /* An instrument is held by its button or by space on it: shown live meanwhile, taken when it is let go. */
  const EVERY_MS = 350;
  let held = null;
  const about = (form) => {
    const words = new URLSearchParams();
    const put = (name, value) => value && words.set(name, value);
    put("trial", form.dataset.trial);
    put("place", form.dataset.place);
    put("set_id", form.dataset.set);
    put("side", form.querySelector("[name=side]:checked")?.value);
    put("end", form.querySelector("[name=end]:checked")?.value);
    const since = form.querySelector("[data-since], [name=after_s]");
    put("after", since?.value || (stopped === null ? "" : String(Math.round((Date.now() - stopped) / 1000))));
    return words;
  };
  const middle = (values) => values.toSorted((a, b) => Number(a) - Number(b))[Math.floor(values.length / 2)];
  const ask = async (h) => {
    try {
      const answer = await fetch(`${h.box.dataset.address}?${about(h.form)}`);
      const found = await answer.json();
      if (held !== h && h.taken.length) return;
      h.live.textContent = found.problem || found.text;
      h.live.classList.toggle("problem", Boolean(found.problem));
      if (!found.problem) h.taken.push(found);
    } catch {
      h.live.textContent = "Clavis does not answer.";
    }
  };
  const hold = (button) => {
    const box = button.closest("[data-instrument]");
    const h = { box, form: button.closest("form"), live: box.querySelector("output"), taken: [] };
    held = h;
    button.setAttribute("aria-pressed", "true");
    h.first = ask(h);
    h.timer = setInterval(() => ask(h), EVERY_MS);
  };
  const letGo = async () => {
    const h = held;
    if (!h) return;
    held = null;
    clearInterval(h.timer);
    h.box.querySelector("[data-hold]").setAttribute("aria-pressed", "false");
    await h.first;
    if (!h.taken.length) return;
    const entry = h.form.querySelector(`[name="${h.box.dataset.into}"]`);
    const value = middle(h.taken.map((found) => found.value));
    entry.value = h.box.dataset.adds && entry.value.trim() ? `${entry.value.trim()} ${value}` : value;
    const also = h.box.dataset.also && h.form.querySelector(`[name="${h.box.dataset.also}"]`);
    const speed = h.taken[h.taken.length - 1].also?.speed;
    if (also && speed) also.value = speed;
    const source = h.form.querySelector("[data-source]");
    if (source) source.value = h.box.dataset.instrument;
    h.live.textContent = `taken: ${value}`;
    entry.focus();
  };
  document.addEventListener("pointerdown", (event) => {
    const button = event.target.closest("[data-hold]");
    if (button) hold(button);
  });
  document.addEventListener("pointerup", letGo);
  document.addEventListener("pointercancel", letGo);
  document.addEventListener("keydown", (event) => {
    if (event.key === " " && !event.repeat && event.target.matches("[data-hold]")) {
      event.preventDefault();
      hold(event.target);
    }
  });
  document.addEventListener("keyup", (event) => {
    if (event.key === " " && held) {
      event.preventDefault();
      letGo();
    }
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
