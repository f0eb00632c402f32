/* The scale drawing: layers, zoom and pan, sizes of what is pointed at. How one looks at it stays while the page is
   answered anew, and in this tab. */
(() => {
  "use strict";
  const kept = JSON.parse(sessionStorage.getItem("clavis-fit") || "{}");
  const state = (end) => (kept[end] ||= { off: [], sizes: false, zoom: 1, x: 0, y: 0 });
  const keep = () => sessionStorage.setItem("clavis-fit", JSON.stringify(kept));
  const MOST = 12;

  const look = (figure) => {
    const s = state(figure.dataset.drawing),
      svg = figure.querySelector("svg");
    svg.querySelectorAll("[data-in]").forEach((g) => g.classList.toggle("hidden", s.off.includes(g.dataset.in)));
    svg.classList.toggle("all-sizes", s.sizes);
    figure.querySelectorAll("[data-layer]").forEach((chip) => {
      const on = chip.dataset.layer === "sizes" ? s.sizes : !s.off.includes(chip.dataset.layer);
      chip.setAttribute("aria-pressed", on);
    });
    const [left, top, width, height] = svg.dataset.view.split(" ").map(Number);
    const w = width / s.zoom,
      h = height / s.zoom;
    svg.setAttribute(
      "viewBox",
      [left + (width - w) / 2 + s.x, top + (height - h) / 2 + s.y, w, h].map((v) => v.toFixed(2)).join(" "),
    );
  };
  const all = () => document.querySelectorAll("[data-drawing]").forEach(look);

  const zoom = (figure, factor) => {
    const s = state(figure.dataset.drawing);
    s.zoom = factor ? Math.min(Math.max(s.zoom * factor, 0.4), MOST) : 1;
    if (!factor) {
      s.x = 0;
      s.y = 0;
    }
    keep();
    look(figure);
  };
  const move = (figure, dx, dy) => {
    const s = state(figure.dataset.drawing);
    s.x += dx;
    s.y += dy;
    keep();
    look(figure);
  };
  const light = (figure, thing) => {
    const of = thing?.dataset.of;
    figure.querySelectorAll("[data-size-of]").forEach((g) => g.classList.toggle("lit", g.dataset.sizeOf === of));
    figure.querySelectorAll("[data-of]").forEach((g) => g.classList.toggle("lit", Boolean(of) && g === thing));
    if (thing) {
      const sizes = [...figure.querySelectorAll("[data-size-of]")]
        .filter((g) => g.dataset.sizeOf === of)
        .map((g) => `${g.querySelector("title").textContent} ${g.querySelector("text").textContent}`);
      figure.querySelector("[data-told]").textContent = [thing.querySelector("title").textContent, ...sizes].join(
        " · ",
      );
    }
  };

  document.addEventListener("click", (e) => {
    const figure = e.target.closest?.("[data-drawing]");
    if (!figure) return;
    const chip = e.target.closest("[data-layer]"),
      way = e.target.closest("[data-zoom]");
    const s = state(figure.dataset.drawing);
    if (chip) {
      const layer = chip.dataset.layer;
      if (layer === "sizes") s.sizes = !s.sizes;
      else s.off = s.off.includes(layer) ? s.off.filter((l) => l !== layer) : [...s.off, layer];
      keep();
      look(figure);
    }
    if (way) zoom(figure, { in: 1.4, out: 1 / 1.4, fit: 0 }[way.dataset.zoom]);
  });
  document.addEventListener(
    "keydown",
    (e) => {
      const svg = e.target.closest?.("[data-drawing] svg");
      if (!svg || e.ctrlKey || e.metaKey || e.altKey) return;
      const figure = svg.closest("[data-drawing]"),
        step = Number(svg.getAttribute("viewBox").split(" ")[2]) / 12;
      const act = {
        "+": () => zoom(figure, 1.4),
        "=": () => zoom(figure, 1.4),
        "-": () => zoom(figure, 1 / 1.4),
        0: () => zoom(figure, 0),
        ArrowLeft: () => move(figure, -step, 0),
        ArrowRight: () => move(figure, step, 0),
        ArrowUp: () => move(figure, 0, -step),
        ArrowDown: () => move(figure, 0, step),
      }[e.key];
      if (act) {
        e.preventDefault();
        e.stopPropagation();
        act();
      }
    },
    true,
  );
  let held = null;
  document.addEventListener("pointerdown", (e) => {
    const svg = e.target.closest?.("[data-drawing] svg");
    if (svg && e.button === 0) held = { svg, x: e.clientX, y: e.clientY };
  });
  document.addEventListener("pointermove", (e) => {
    if (!held) return;
    const box = held.svg.viewBox.baseVal,
      scale = Math.max(box.width / held.svg.clientWidth, box.height / held.svg.clientHeight);
    move(held.svg.closest("[data-drawing]"), (held.x - e.clientX) * scale, (held.y - e.clientY) * scale);
    held.x = e.clientX;
    held.y = e.clientY;
  });
  ["pointerup", "pointercancel"].forEach((name) =>
    document.addEventListener(name, () => {
      held = null;
    }),
  );
  document.addEventListener(
    "wheel",
    (e) => {
      const svg = e.target.closest?.("[data-drawing] svg");
      if (!svg || !e.ctrlKey) return;
      e.preventDefault();
      zoom(svg.closest("[data-drawing]"), e.deltaY < 0 ? 1.15 : 1 / 1.15);
    },
    { passive: false },
  );
  ["pointerover", "focusin"].forEach((name) =>
    document.addEventListener(name, (e) => {
      const figure = e.target.closest?.("[data-drawing]");
      if (figure) light(figure, e.target.closest("[data-of][tabindex]"));
    }),
  );
  document.addEventListener("pointerout", (e) => {
    const figure = e.target.closest?.("[data-drawing]");
    if (figure && !figure.contains(e.relatedTarget)) light(figure, null);
  });
  document.addEventListener("htmx:afterSettle", all);
  document.addEventListener("DOMContentLoaded", all);
})();
