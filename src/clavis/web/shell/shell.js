/* What the pages need beyond htmx: the name asked once, keys, charts, small manners. */
(() => {
  "use strict";
  const $ = (selector, root = document) => root.querySelector(selector);
  const named = () =>
    $("[data-signed-in]") !== null ||
    document.cookie.split("; ").some((c) => c.startsWith("clavis_who=") && c.length > 11);

  /* The name: asked at the first change, kept by the server as a cookie; the change then goes its way. */
  let waiting = null;
  const askName = (then) => {
    waiting = then;
    const dialog = $("#name-dialog");
    if (!dialog.open) dialog.showModal();
  };
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.closest("#name-dialog") && waiting) {
      event.preventDefault();
      fetch("/who", { method: "POST", body: new FormData(form), redirect: "manual" }).then(() => {
        $("#name-dialog").close();
        $(".who").textContent = new FormData(form).get("name");
        const next = waiting;
        waiting = null;
        next();
      });
    } else if (form.matches("[data-change]") && !named()) {
      event.preventDefault();
      askName(() => form.submit());
    }
  });
  /* In a row that is pushed aside, what is open is seen. */
  document.addEventListener("htmx:load", () => {
    for (const open of document.querySelectorAll(":is(.stations, .walk-bar) > [aria-current]")) {
      const row = open.parentElement;
      if (row.scrollWidth > row.clientWidth) row.scrollLeft = open.offsetLeft - row.offsetLeft - 40;
    }
  });
  document.addEventListener("htmx:confirm", (event) => {
    const detail = event.detail;
    if (detail.verb === "post" && !named()) {
      event.preventDefault();
      askName(() => detail.issueRequest(true));
    }
  });
  document.addEventListener("click", (event) => {
    const hit = (selector) => event.target.closest(selector);
    if (hit("[data-ask-name]")) {
      waiting = null;
      $("#name-dialog").showModal();
    }
    if (hit("[data-close-dialog]")) {
      waiting = null;
      $("#name-dialog").close();
    }
    if (hit("[data-close-why]")) $("#why").replaceChildren();
    if (hit("[data-print-page]")) window.print();
    const toggle = hit("[data-toggle]");
    if (toggle && named())
      toggle.setAttribute("aria-pressed", toggle.getAttribute("aria-pressed") === "true" ? "false" : "true");
  });

  /* Files: too large is said before anything is sent. */
  document.addEventListener(
    "change",
    (event) => {
      const input = event.target;
      if (input.type !== "file" || !input.files.length) return;
      const limit = Number(input.dataset.limitMb);
      if (limit && input.files[0].size > limit * 1e6) {
        event.stopPropagation();
        event.preventDefault();
        const text = `${input.files[0].name} is larger than ${limit} MB; nothing was sent. Cut it first.`;
        const place = $(input.dataset.limitMessage || "#notice");
        place.innerHTML = "";
        const p = Object.assign(document.createElement("p"), { className: "problem", textContent: text });
        p.setAttribute("role", "alert");
        place.append(p);
        input.value = "";
        return;
      }
      if (input.matches("[data-submit-on-choose]")) input.form.requestSubmit();
    },
    true,
  );

  /* A key does what its button does, also while the button's part of the page is being drawn anew. */
  const press = (button, target) => {
    if (!button) return;
    const values = {
      ...Object.fromEntries(new FormData($("#state"))),
      ...JSON.parse(button.getAttribute("hx-vals") || "{}"),
    };
    htmx.ajax("POST", button.getAttribute("hx-post"), {
      source: "#main",
      target: target || "#main",
      swap: target ? "innerHTML" : "none",
      values,
    });
  };

  /* Keys. */
  let lane = "front";
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape") $("#why").replaceChildren();
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.target.matches("input, select, textarea")) return;
    if (document.body.dataset.keys === "off") return;
    const go = (address) => {
      window.location.href = address;
    };
    const there =
      /^\w$/.test(event.key) && $(`.stations a[data-key="${event.key}"], .views a[data-view-key="${event.key}"]`);
    if (there) go(there.href);
    else if (event.key === "?") go("/keys");
    else if (event.key === "h") go($("[data-help]").href);
    else if (event.key === "b") go("/");
    else if (event.key === "/") {
      const box = $("[data-search]");
      if (box) {
        event.preventDefault();
        box.focus();
      } else go("/");
    } else if (event.key === "p" && $("[data-pin]")) press($("[data-pin]"), "#pinned");
    else if (event.key === "n" || event.key === "p") $(`[data-go="${event.key}"]`)?.click();
    else if (event.key === "u") $("[data-undo]")?.click();
    else if (event.key === "U") $("[data-redo]")?.click();
    else if (event.key === "f" || event.key === "r") {
      lane = event.key === "f" ? "front" : "rear";
      document.body.dataset.lane = lane;
      const first = $(`.walk-${lane} :is(input, select)`);
      if (first) {
        event.preventDefault();
        first.focus();
      }
    } else if (event.key === "+" || event.key === "=" || event.key === "-") {
      const way = event.key === "-" ? "down" : "up";
      press($(`[data-step="rotor-${way}-${lane}"]`));
    }
  });

  /* What was found by typing is opened to be chosen from. */
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || !event.target.matches("[data-find]")) return;
    event.preventDefault();
    const list = document.getElementById(event.target.dataset.find);
    list.focus();
    list.showPicker?.();
  });

  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful && event.target.matches("[data-clear-after]")) event.target.value = "";
    if (event.detail.successful) $("#notice").replaceChildren();
  });
  document.addEventListener("DOMContentLoaded", () => {
    if (!location.hash.startsWith("#f-")) return;
    const wanted = $(location.hash);
    for (let box = wanted?.closest("details"); box; box = box.parentElement.closest("details")) box.open = true;
    wanted?.focus();
  });

  /* Answers to a change: errors that have no place of their own go to the corner. */
  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.elt.getAttribute("hx-swap") !== "none" && event.detail.target?.id !== "main") return;
    $("#notice").innerHTML = event.detail.xhr.responseText;
  });
  document.addEventListener("htmx:sendError", () => {
    $("#notice").textContent =
      "Clavis does not answer. What you typed into a field is sent again by itself; a button is pressed again.";
  });
  /* A part of the page is drawn anew with the hand in it: the hand stays on what it had, if that is still there. */
  const MARKS = ["id", "data-step", "hx-post", "hx-get", "href", "name", "aria-label", "hx-vals"];
  const marksOf = (el) =>
    MARKS.filter((mark) => el.hasAttribute(mark)).map((mark) => `[${mark}="${CSS.escape(el.getAttribute(mark))}"]`);
  let held = null;
  const hold = ({ target }) => {
    const el = document.activeElement;
    if (el && el !== document.body && (target === el || target.contains?.(el))) held = [el.tagName, ...marksOf(el)];
  };
  document.addEventListener("htmx:oobBeforeSwap", hold);
  document.addEventListener("htmx:beforeSwap", ({ detail }) => hold({ target: detail.target }));
  document.addEventListener("htmx:afterSettle", () => {
    if (!held || (document.activeElement && document.activeElement !== document.body)) return;
    // what it does may be another thing now (done, and not done): then the same place without that
    for (let marks = held; marks.length > 1; marks = marks.slice(0, -1)) {
      const again = $(marks.join(""));
      if (again) {
        again.focus();
        break;
      }
    }
    held = null;
  });

  /* A table that is wider than its place is scrolled by keys too. */
  const reachable = () =>
    document.querySelectorAll("table, .scrolled").forEach((box) => {
      if (box.scrollWidth > box.clientWidth + 1 && getComputedStyle(box).overflowX !== "visible") box.tabIndex = 0;
    });
  // when there is nothing else to do: figures are painted first
  let waits = 0;
  const whenIdle = () => {
    clearTimeout(waits);
    waits = setTimeout(reachable, 400);
  };
  document.addEventListener("DOMContentLoaded", reachable);
  document.addEventListener("htmx:afterSettle", whenIdle);
  window.addEventListener("resize", whenIdle);

  /* What a person opened stays open when its part of the page is drawn anew. */
  const opened = new Set();
  document.addEventListener(
    "toggle",
    (event) => {
      if (event.target.id) opened[event.target.open ? "add" : "delete"](event.target.id);
    },
    true,
  );
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    event.target.querySelectorAll?.("details[id]").forEach((box) => {
      box.open = opened.has(box.id);
    });
    if (event.target.id === "state") htmx.trigger(document.body, "job-changed");
  });
})();
