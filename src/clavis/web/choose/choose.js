/* The sheet: a part found by typing, and stepped with the arrow keys. */
(() => {
  "use strict";
  let asked = 0,
    timer = 0;
  const list = (input) => document.getElementById(input.getAttribute("aria-controls"));
  const options = (input) => [...list(input).querySelectorAll("[role=option]")];
  const isOpen = (input) => input.getAttribute("aria-expanded") === "true";
  const show = (input, open) => {
    list(input).hidden = !open;
    input.setAttribute("aria-expanded", String(open));
    if (!open) input.removeAttribute("aria-activedescendant");
  };
  const close = (input) => {
    asked += 1;
    clearTimeout(timer);
    show(input, false);
    input.value = input.defaultValue;
  };
  const point = (input, k) => {
    const all = options(input);
    all.forEach((o, at) => {
      o.id = `${list(input).id}-${at}`;
      o.classList.toggle("at", at === k);
    });
    if (!all[k]) return;
    input.setAttribute("aria-activedescendant", all[k].id);
    all[k].scrollIntoView({ block: "nearest" });
  };
  const open = (input, typed) => {
    clearTimeout(timer);
    timer = setTimeout(
      () => {
        const mine = (asked += 1);
        fetch(`${input.dataset.offers}?typed=${encodeURIComponent(typed)}`)
          .then((answer) => answer.text())
          .then((html) => {
            if (mine !== asked || document.activeElement !== input) return;
            list(input).innerHTML = html;
            show(input, true);
            const first = options(input).findIndex((o) => o.dataset.part && !o.classList.contains("refused-offer"));
            point(input, typed ? Math.max(first, 0) : options(input).findIndex((o) => o.ariaSelected === "true"));
          })
          .catch(() => htmx.trigger(document.body, "htmx:sendError"));
      },
      typed ? 90 : 0,
    );
  };
  const send = (input, address, values) => {
    const state = Object.fromEntries(new FormData(document.getElementById("state")));
    htmx.ajax("POST", address, {
      source: "#main",
      target: "#main",
      swap: "none",
      values: { ...state, end: input.dataset.end, ...values },
    });
  };
  const choose = (input, option) => {
    close(input);
    if (option.dataset.quick) htmx.ajax("GET", option.dataset.quick, { source: "#main", target: "#why" });
    else send(input, input.dataset.swap, { axis: input.dataset.axis, part_id: option.dataset.part });
  };

  document.addEventListener("focusin", (event) => {
    if (event.target.matches("[data-combo]")) event.target.select();
  });
  document.addEventListener("click", (event) => {
    const option = event.target.closest(".offers [role=option]");
    if (option) choose(option.closest(".combo").querySelector("input"), option);
    else if (event.target.matches("[data-combo]") && !isOpen(event.target)) open(event.target, "");
  });
  // a press on the list must not take the focus, and with it the list, away
  document.addEventListener("mousedown", (event) => {
    if (event.target.closest(".offers")) event.preventDefault();
  });
  document.addEventListener("input", (event) => {
    if (event.target.matches("[data-combo]")) open(event.target, event.target.value.trim());
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches("[data-combo]")) close(event.target);
  });
  document.addEventListener(
    "keydown",
    (event) => {
      const input = event.target;
      if (!input.matches("[data-combo]") || event.ctrlKey || event.metaKey) return;
      const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
      if (way && event.altKey) {
        event.preventDefault();
        open(input, "");
      } else if (way && isOpen(input)) {
        event.preventDefault();
        const all = options(input),
          at = all.findIndex((o) => o.classList.contains("at"));
        point(input, Math.min(Math.max(at + way, 0), all.length - 1));
      } else if (way) {
        // the upper key is the larger size, as + is
        event.preventDefault();
        const button = input.closest(".stepper").querySelector(`:scope > button:${way < 0 ? "last" : "first"}-child`);
        htmx.process(button); // a sheet that was drawn this moment may not listen yet
        button.click();
      } else if (event.key === "Enter" && isOpen(input)) {
        event.preventDefault();
        const option = options(input).find((o) => o.classList.contains("at"));
        if (option) choose(input, option);
      } else if (event.key === "Escape") {
        if (isOpen(input)) event.stopPropagation();
        close(input);
      }
    },
    true,
  );

  /* The sheet is drawn anew after each change; the hand stays where it was, with what it had begun to type. */
  let hand = null;
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    if (event.target.id !== "live") return;
    // what was asked for the sheet that goes away is not waited for
    event.target.querySelectorAll(".chance, .sure").forEach((place) => htmx.trigger(place, "htmx:abort"));
    const held = document.activeElement?.closest("#live") && document.activeElement;
    hand = held
      ? {
          place: held.id ? `#${CSS.escape(held.id)}` : `#live [data-step="${held.dataset.step}"]`,
          typed: held.matches("[data-combo]") && held.value !== held.defaultValue ? held.value : "",
        }
      : null;
  });
  document.addEventListener("htmx:oobAfterSwap", () => {
    if (!hand) return;
    const { place, typed } = hand;
    hand = null; // once: what is drawn into other places later leaves the hand where it has gone since
    const again = document.querySelector(place);
    if (!again || document.activeElement === again) return;
    again.focus();
    if (typed) {
      again.value = typed;
      open(again, typed.trim());
    }
  });
})();
