/* What the pages need beyond htmx: the name asked once, keys, charts, small manners. */
(() => {
  "use strict";
  const $ = (selector, root = document) => root.querySelector(selector);
  const named = () => document.cookie.split("; ").some((c) => c.startsWith("clavis_who=") && c.length > 11);

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
  document.addEventListener("htmx:confirm", (event) => {
    const detail = event.detail;
    if (detail.verb === "post" && !named()) {
      event.preventDefault();
      askName(() => detail.issueRequest(true));
    }
  });
  document.addEventListener("click", (event) => {
    const hit = (selector) => event.target.closest(selector);
    if (hit("[data-ask-name]")) { waiting = null; $("#name-dialog").showModal(); }
    if (hit("[data-close-dialog]")) { waiting = null; $("#name-dialog").close(); }
    if (hit("[data-close-why]")) $("#why").replaceChildren();
    if (hit("[data-print-page]")) window.print();
    const toggle = hit("[data-toggle]");
    if (toggle && named()) toggle.setAttribute("aria-pressed", toggle.getAttribute("aria-pressed") === "true" ? "false" : "true");
  });

  /* Files: too large is said before anything is sent. */
  document.addEventListener("change", (event) => {
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
  }, true);

  /* A key does what its button does, also while the button's part of the page is being drawn anew. */
  const press = (button, target) => {
    if (!button) return;
    const values = { ...Object.fromEntries(new FormData($("#state"))), ...JSON.parse(button.getAttribute("hx-vals") || "{}") };
    htmx.ajax("POST", button.getAttribute("hx-post"), { source: "#main", target: target || "#main", swap: target ? "innerHTML" : "none", values });
  };

  /* Keys. */
  let lane = "front";
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape") $("#why").replaceChildren();
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.target.matches("input, select, textarea")) return;
    const go = (address) => { window.location.href = address; };
    const station = $(`.stations a[data-key="${event.key}"]`);
    if (station) go(station.href);
    else if (event.key === "?") go("/keys");
    else if (event.key === "b") go("/");
    else if (event.key === "/") { const box = $("[data-search]"); if (box) { event.preventDefault(); box.focus(); } else go("/"); }
    else if (event.key === "p" && $("[data-pin]")) press($("[data-pin]"), "#pinned");
    else if (event.key === "c" && $("[data-compare]")) go($("[data-compare]").href);
    else if (event.key === "n" || event.key === "p") $(`[data-go="${event.key}"]`)?.click();
    else if (event.key === "u") $("[data-undo]")?.click();
    else if (event.key === "f" || event.key === "r") { lane = event.key === "f" ? "front" : "rear"; document.body.dataset.lane = lane; const first = $(`.walk-${lane} :is(input, select)`); if (first) { event.preventDefault(); first.focus(); } }
    else if (event.key === "+" || event.key === "=" || event.key === "-") {
      const way = event.key === "-" ? "down" : "up";
      press($(`button[aria-label="rotor one ${way}, ${lane}"]`));
    }
  });

  /* Measure: the field in hand lights its dimension; a gauge sends into it. */
  let hand = null;
  document.addEventListener("focusin", (event) => {
    const drawn = $("#drawn"), path = drawn && event.target.dataset?.field;
    if (!path) return;
    hand = { path, id: event.target.id };
    const [end, name] = path.split(".");
    drawn.querySelectorAll("[data-dim]").forEach((dim) => dim.classList.toggle("lit", dim.dataset.dim.split(" ").includes(name)));
    const label = $(`label[for="${event.target.id}"]`);
    $("#in-hand").textContent = `In hand: ${end}, ${label ? label.textContent.trim().toLowerCase() : name}`;
  });
  const showTold = () => {
    document.querySelectorAll("#drawn .tile").forEach((tile) => {
      for (const end of ["front", "rear"]) tile.classList.toggle(`told-${end}`, $(`#told-${end}`)?.dataset.kind === tile.dataset.told);
    });
  };
  document.addEventListener("DOMContentLoaded", showTold);
  document.addEventListener("htmx:afterSettle", showTold);
  const send = () => {
    const box = $("#gauge");
    if (!box) return;
    const field = hand && document.getElementById(hand.id);
    if (!field) { $("#notice").innerHTML = '<p class="problem" role="alert">Put the cursor into the field that the gauge shall fill.</p>'; return; }
    const target = field.closest(".rotor") ?? field.closest(".field");
    const state = Object.fromEntries(new FormData($("#state")));
    field.focus();
    htmx.ajax("POST", `/jobs/${box.dataset.job}/gauge`, { source: box, target, swap: "outerHTML", values: { ...state, path: hand.path, kind: $("#gauge-kind").value } });
  };
  document.addEventListener("click", (event) => { if (event.target.closest("[data-send]")) send(); });
  document.addEventListener("keydown", (event) => { if (event.altKey && event.key.toLowerCase() === "g") { event.preventDefault(); send(); } });
  document.addEventListener("htmx:beforeSwap", (event) => {
    // a gauge that was refused says so in the corner; the field stays as it was
    if (event.detail.requestConfig?.path.endsWith("/gauge") && event.detail.xhr.status >= 400) {
      event.detail.shouldSwap = false;
      $("#notice").innerHTML = event.detail.xhr.responseText;
    }
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful && event.target.matches("[data-clear-after]")) event.target.value = "";
    if (event.detail.successful) $("#notice").replaceChildren();
  });
  document.addEventListener("DOMContentLoaded", () => { if (location.hash.startsWith("#f-")) $(location.hash)?.focus(); });

  /* Answers to a change: errors that have no place of their own go to the corner. */
  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.elt.getAttribute("hx-swap") !== "none" && event.detail.target?.id !== "main") return;
    $("#notice").innerHTML = event.detail.xhr.responseText;
  });
  document.addEventListener("htmx:sendError", () => {
    $("#notice").textContent = "Clavis does not answer. What you typed still stands here; try again.";
  });
  /* What a person opened stays open when its part of the page is drawn anew. */
  const opened = new Set();
  document.addEventListener("toggle", (event) => { if (event.target.id) opened[event.target.open ? "add" : "delete"](event.target.id); }, true);
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    event.target.querySelectorAll?.("details[id]").forEach((box) => { box.open = opened.has(box.id); });
    if (event.target.id === "state") htmx.trigger(document.body, "job-changed");
  });

  /* Charts. */
  const ink = "#14241f", soft = "#3d524a", grid = "#dfe6e1";
  const plain = (_u, values) => values.map((v) => (v === null ? "" : String(v).replace(/\B(?=(\d{3})+$)/, "\u202f")));
  const axis = (more) => ({ values: plain, stroke: soft, font: "12px Sofia", grid: { stroke: grid, width: 1 }, ticks: { stroke: grid, width: 1 }, ...more });
  const km = (more) => axis({ values: (_u, v) => v.map((x) => `${x}`), size: 26, ...more });
  const lineAt = (u, value, scale, dash, text) => {
    if (value === null || value === undefined) return;
    const y = u.valToPos(value, scale, true);
    if (y < u.bbox.top) return;
    const c = u.ctx;
    c.save();
    c.strokeStyle = ink; c.fillStyle = ink; c.lineWidth = devicePixelRatio; c.setLineDash(dash.map((d) => d * devicePixelRatio));
    c.beginPath(); c.moveTo(u.bbox.left, y); c.lineTo(u.bbox.left + u.bbox.width, y); c.stroke();
    c.font = `600 ${12 * devicePixelRatio}px Sofia`; c.textAlign = "right";
    c.setLineDash([]); c.strokeStyle = "#f8faf7"; c.lineWidth = 4 * devicePixelRatio; c.lineJoin = "round";
    c.strokeText(text, u.bbox.left + u.bbox.width - 4, y - 4 * devicePixelRatio);
    c.fillText(text, u.bbox.left + u.bbox.width - 4, y - 4 * devicePixelRatio);
    c.restore();
  };
  const drawCourse = (box, d) => {
    const series = [{}]; const data = [d.km];
    const add = (values, options) => { if (values) { data.push(values); series.push({ points: { show: false }, ...options }); } };
    add(d.old_rotor, { label: "rotor as fitted", stroke: "#d9a39b", width: 1.3 });
    add(d.old_fluid, { label: "fluid as fitted", stroke: "#8fa3b8", width: 1.3 });
    add(d.rotor, { label: "rotor", stroke: "#b04e49", width: 2.6 });
    add(d.fluid, { label: "fluid", stroke: "#26415e", width: 2.6 });
    const top = Math.max(...data.slice(1).flat(), d.boils ?? 0, 120);
    return new uPlot({
      width: box.clientWidth, height: box.clientHeight, series, legend: { show: false }, cursor: { y: false },
      scales: { x: { time: false }, y: { range: [0, top * 1.12] } },
      axes: [km(), axis({ size: 38, space: 20 })],
      hooks: { draw: [(u) => { lineAt(u, d.fade, "y", [6, 4], `fade ${d.fade}°`); lineAt(u, d.boils, "y", [2, 3], `boils ${Math.round(d.boils)}°`); }] },
    }, data, box);
  };
  /* Other files of ours add the charts of their pages. */
  const drawers = { course: drawCourse };
  window.clavis = { ink, soft, axis, drawers };
  const charts = (root) => root.querySelectorAll?.("[data-chart]").forEach((box) => {
    if (box.dataset.drawn) return;
    box.dataset.drawn = "yes";
    drawers[box.dataset.chart](box, JSON.parse($("script", box).textContent));
  });
  const fonts = Promise.all([document.fonts.load("12px Sofia"), document.fonts.load("600 12px Sofia")]).catch(() => {});
  document.addEventListener("DOMContentLoaded", () => fonts.then(() => charts(document)));
  document.addEventListener("htmx:load", (event) => fonts.then(() => charts(event.detail.elt.parentElement || document)));
})();
