/* The Ride page: the picture of a ride, its points that can be dragged, the worst-speed curve, files on their way. */
(() => {
  "use strict";
  const { colour, ink, soft, plate, axis, drawers } = window.clavis;
  const $ = (selector, root = document) => root.querySelector(selector);
  const BANDS = [
    [-Infinity, "climb"],
    [0, "slope-1"],
    [3, "slope-2"],
    [6, "slope-3"],
    [9, "slope-4"],
    [12, "slope-5"],
    [16, "slope-6"],
  ].map(([from, name]) => [from, colour(name)]);
  const slope = (gradient) => BANDS.reduce((found, [from, c]) => (gradient >= from ? c : found), BANDS[0][1]);
  const dpr = () => devicePixelRatio;
  const number = (v, places = 0) =>
    v
      .toFixed(places)
      .replace(/\B(?=(\d{3})+(?!\d))/g, "\u202f")
      .replace("-", "−");
  const short = (more) => axis({ values: (_u, v) => v.map((x) => `${x}`), size: 26, ...more });

  /* the slope under the line, band by band */
  const shade = (d) => (u) => {
    const c = u.ctx,
      floor = u.bbox.top + u.bbox.height;
    c.save();
    c.beginPath();
    c.rect(u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height);
    c.clip();
    for (let k = 0; k + 1 < d.km.length; k += 1) {
      const [a, b] = [u.valToPos(d.km[k], "x", true), u.valToPos(d.km[k + 1], "x", true)];
      c.fillStyle = slope(d.gradient[k]);
      c.beginPath();
      c.moveTo(a, floor);
      c.lineTo(a, u.valToPos(d.elevation[k], "y", true));
      c.lineTo(b + 0.6, u.valToPos(d.elevation[k + 1], "y", true));
      c.lineTo(b + 0.6, floor);
      c.fill();
    }
    c.restore();
  };
  /* corners, stops, and where the recording was mended */
  const marks = (d) => (u) => {
    const c = u.ctx,
      r = 4 * dpr(),
      told = d.slow.length <= 24;
    c.save();
    c.font = `600 ${11 * dpr()}px Sofia`;
    c.textAlign = "center";
    c.fillStyle = colour("tight");
    d.slow.forEach(([km, speed, stop]) => {
      const x = u.valToPos(km, "x", true),
        y = u.valToPos(speed, "v", true);
      c.beginPath();
      if (stop) c.rect(x - r, y - r, 2 * r, 2 * r);
      else {
        c.moveTo(x - r, y - r);
        c.lineTo(x + r, y - r);
        c.lineTo(x, y + r);
      }
      c.fill();
      if (told && !stop) {
        c.strokeStyle = plate;
        c.lineWidth = 3 * dpr();
        c.strokeText(speed, x, y - 7 * dpr());
        c.fillText(speed, x, y - 7 * dpr());
      }
    });
    c.strokeStyle = ink;
    c.fillStyle = ink;
    c.lineWidth = 2 * dpr();
    d.descents.forEach(([from, to], k) => {
      const [a, b] = [u.valToPos(from, "x", true), u.valToPos(to, "x", true)],
        y = u.bbox.top + 7 * dpr(),
        drop = 6 * dpr();
      c.beginPath();
      c.moveTo(a, y + drop);
      c.lineTo(a, y);
      c.lineTo(b, y);
      c.lineTo(b, y + drop);
      c.stroke();
      c.strokeStyle = plate;
      c.lineWidth = 4 * dpr();
      c.strokeText(k + 1, (a + b) / 2, y + 4 * dpr());
      c.fillText(k + 1, (a + b) / 2, y + 4 * dpr());
      c.strokeStyle = ink;
      c.lineWidth = 2 * dpr();
    });
    c.strokeStyle = colour("stop");
    c.lineWidth = 3 * dpr();
    d.mended.forEach(([from, to]) => {
      const y = u.bbox.top + u.bbox.height - 2 * dpr();
      c.beginPath();
      c.moveTo(u.valToPos(from, "x", true) - 2, y);
      c.lineTo(u.valToPos(to, "x", true) + 2, y);
      c.stroke();
    });
    c.restore();
  };

  /* which line is which, written in the corner */
  const key = (lines) => (u) => {
    const c = u.ctx,
      y = u.bbox.top + 10 * dpr();
    let x = u.bbox.left + u.bbox.width - 6 * dpr();
    c.save();
    c.setLineDash([]);
    c.font = `600 ${12 * dpr()}px Sofia`;
    c.textAlign = "right";
    c.textBaseline = "middle";
    c.strokeStyle = plate;
    c.lineJoin = "round";
    lines.toReversed().forEach(({ word, stroke }) => {
      const wide = c.measureText(word).width;
      c.fillStyle = stroke;
      c.strokeStyle = plate;
      c.lineWidth = 4 * dpr();
      c.strokeText(word, x, y);
      c.fillText(word, x, y);
      c.strokeStyle = stroke;
      c.lineWidth = 2.4 * dpr();
      c.beginPath();
      c.moveTo(x - wide - 20 * dpr(), y);
      c.lineTo(x - wide - 5 * dpr(), y);
      c.stroke();
      x -= wide + 34 * dpr();
    });
    c.restore();
  };

  const pick = (box, u) => {
    const at = u.posToVal(u.cursor.left, "x");
    $(".picked", u.over)?.remove();
    const line = Object.assign(document.createElement("div"), { className: "picked" });
    line.style.left = `${u.cursor.left}px`;
    u.over.append(line);
    htmx.ajax("GET", `/jobs/${box.dataset.job}/rides/${box.dataset.ride}/worst?at=${at.toFixed(3)}`, {
      source: "#worst",
      target: "#worst",
      swap: "innerHTML",
    });
  };

  /* points of typed sections: dragged, or moved with the arrow keys */
  let held = null;
  const handles = (box, d, u) => {
    if (!d.handles) return;
    const space = "http://www.w3.org/2000/svg";
    const svg = document.createElementNS(space, "svg"),
      line = document.createElementNS(space, "polyline");
    svg.classList.add("drag-line");
    svg.append(line);
    u.over.append(svg);
    const points = d.handles.map((p) => [...p]);
    const place = (button, [km, height]) => {
      button.style.left = `${u.valToPos(km, "x")}px`;
      button.style.top = `${u.valToPos(height, "y")}px`;
    };
    const trace = (k) =>
      line.setAttribute(
        "points",
        points
          .slice(Math.max(k - 1, 0), k + 2)
          .map(([x, y]) => `${u.valToPos(x, "x")},${u.valToPos(y, "y")}`)
          .join(" "),
      );
    const send = (k) => {
      const [at, height] = points[k],
        state = Object.fromEntries(new FormData($("#state")));
      htmx.ajax("POST", `/jobs/${box.dataset.job}/rides/${box.dataset.ride}/point`, {
        source: "#ride-message",
        target: "#ride-message",
        swap: "innerHTML",
        values: { ...state, index: k, at: at.toFixed(4), height: height.toFixed(2) },
      });
    };
    points.forEach((point, k) => {
      const button = Object.assign(document.createElement("button"), { type: "button", className: "handle" });
      const name = k === 0 ? "Top of the ride" : `End of section ${k}`;
      const say = () =>
        button.setAttribute(
          "aria-label",
          `${name}: ${number(points[k][0], 2)} ${d.units.km}, ${number(points[k][1])} ${d.units.m}`,
        );
      const move = (km, height) => {
        points[k] = [k === 0 ? 0 : km, height];
        place(button, points[k]);
        trace(k);
        say();
      };
      place(button, point);
      say();
      let rest = 0;
      button.addEventListener("pointerdown", (event) => {
        event.stopPropagation();
        button.setPointerCapture(event.pointerId);
        button.classList.add("held");
      });
      button.addEventListener("pointermove", (event) => {
        if (!button.classList.contains("held")) return;
        const area = u.over.getBoundingClientRect();
        move(u.posToVal(event.clientX - area.left, "x"), u.posToVal(event.clientY - area.top, "y"));
      });
      button.addEventListener("pointerup", (event) => {
        event.stopPropagation();
        if (!button.classList.contains("held")) return;
        button.classList.remove("held");
        held = k;
        if (points[k][0] !== d.handles[k][0] || points[k][1] !== d.handles[k][1]) send(k);
      });
      button.addEventListener("click", (event) => event.stopPropagation());
      button.addEventListener("keydown", (event) => {
        const way = { ArrowLeft: [-10, 0], ArrowRight: [10, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
        if (!way) return;
        event.preventDefault();
        const by = event.shiftKey ? 10 : 1;
        held = k;
        move(points[k][0] + way[0] * by * d.per_km, points[k][1] + way[1] * by * d.per_m);
        clearTimeout(rest);
        rest = setTimeout(() => send(k), 350);
      });
      u.over.append(button);
      if (held === k && document.activeElement === document.body) button.focus({ preventScroll: true });
    });
    box.addEventListener("put-back", () => {
      points.forEach((_p, k) => {
        points[k] = [...d.handles[k]];
      });
      u.over.querySelectorAll(".handle").forEach((button, k) => place(button, points[k]));
      line.removeAttribute("points");
    });
  };
  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.pathInfo.requestPath.endsWith("/point"))
      $("[data-chart=ride]")?.dispatchEvent(new Event("put-back"));
  });

  drawers.ride = (box, d) => {
    const over = document.createElement("div"),
      under = document.createElement("div"),
      told = Object.assign(document.createElement("p"), { className: "readout" });
    box.append(over, under, told);
    const high = Math.round((box.clientHeight - 20) * 0.56),
      low = box.clientHeight - 20 - high;
    const tell = (u) => {
      const k = u.cursor.idx;
      if (k === null || k === undefined || u.cursor.left < 0) {
        told.textContent = "Point at the picture to read it; press to pick a slope.";
        return;
      }
      const parts = [
        `${number(d.km[k], 2)} ${d.units.km}`,
        `${number(d.elevation[k])} ${d.units.m}`,
        `${number(d.gradient[k], 1)} %`,
        `${number(d.speed[k])} ${d.units.kmh}`,
        `front ${number(d.front[k])} W`,
        `rear ${number(d.rear[k])} W`,
      ];
      if (d.regen) parts.push(`regenerated ${number(d.regen[k])} W`);
      told.textContent = parts.join("  ·  ");
    };
    const common = {
      width: box.clientWidth,
      cursor: { sync: { key: "ride" }, y: false, drag: { x: false, y: false } },
      legend: { show: false },
    };
    const [bottom, top] = [Math.min(...d.elevation), Math.max(...d.elevation)];
    const spare = Math.max((top - bottom) * 0.12, 6);
    const fastest = Math.max(...d.speed, 10);
    const profile = new uPlot(
      {
        ...common,
        height: high,
        scales: { x: { time: false }, y: { range: [bottom - spare, top + spare] }, v: { range: [0, fastest * 1.25] } },
        series: [
          {},
          { stroke: ink, width: 2, points: { show: false } },
          { stroke: colour("ochre"), width: 1.6, dash: [7, 3], scale: "v", points: { show: false } },
        ],
        axes: [
          short({ show: false }),
          axis({ size: 50, label: `height ${d.units.m}`, labelSize: 16 }),
          axis({
            scale: "v",
            side: 1,
            size: 44,
            label: `speed ${d.units.kmh}`,
            labelSize: 16,
            grid: { show: false },
            stroke: colour("tight"),
          }),
        ],
        hooks: { ready: [(u) => handles(box, d, u)], drawAxes: [shade(d)], draw: [marks(d)], setCursor: [tell] },
      },
      [d.km, d.elevation, d.speed],
      over,
    );
    const lines = [
      { word: "front", stroke: colour("enamel-ink"), width: 1.8, fill: colour("front-fill") },
      { word: "rear", stroke: colour("rear"), width: 1.6 },
      ...(d.regen ? [{ word: "regenerated", stroke: colour("fluid"), width: 1.4, dash: [4, 3] }] : []),
    ];
    const power = new uPlot(
      {
        ...common,
        height: low,
        scales: { x: { time: false }, y: { range: (_u, _low, most) => [0, Math.max(most, 50) * 1.08] } },
        series: [
          {},
          ...lines.map((l) => ({ ...l, paths: uPlot.paths.stepped({ align: 1 }), points: { show: false } })),
        ],
        axes: [
          short({ size: 24, values: (_u, v) => v.map((x, k) => (k === v.length - 1 ? `${x} ${d.units.km}` : `${x}`)) }),
          axis({ size: 50, label: "power W", labelSize: 16 }),
          axis({
            side: 1,
            size: 44,
            label: " ",
            labelSize: 16,
            values: (_u, v) => v.map(() => ""),
            grid: { show: false },
            ticks: { show: false },
          }),
        ],
        hooks: { setCursor: [tell], draw: [key(lines)] },
      },
      [d.km, d.front, d.rear, ...(d.regen ? [d.regen] : [])],
      under,
    );
    [profile, power].forEach((u) => u.over.addEventListener("click", () => pick(box, u)));
    tell(profile);
  };

  drawers.worst = (box, d) => {
    const data = [d.speed, d.power, d.rotor],
      series = [
        {},
        { stroke: ink, width: 2, points: { show: false } },
        { stroke: colour("heat-6"), width: 2, scale: "t", points: { show: false } },
      ];
    if (d.fluid) {
      data.push(d.fluid);
      series.push({ stroke: colour("fluid"), width: 2, dash: [7, 3], scale: "t", points: { show: false } });
    }
    const curves = [
      { values: d.power, scale: "y", stroke: ink, word: "power" },
      { values: d.rotor, scale: "t", stroke: colour("heat-6"), word: "rotor" },
    ];
    if (d.fluid) curves.push({ values: d.fluid, scale: "t", stroke: colour("fluid"), word: "fluid" });
    const peak = (u) =>
      curves.forEach(({ values, scale, stroke }) => {
        const k = values.indexOf(Math.max(...values)),
          c = u.ctx;
        c.save();
        c.fillStyle = stroke;
        c.beginPath();
        c.arc(u.valToPos(d.speed[k], "x", true), u.valToPos(values[k], scale, true), 4.5 * dpr(), 0, 7);
        c.fill();
        c.restore();
      });
    const hottest = Math.max(...d.rotor, ...(d.fluid ?? [0]));
    return new uPlot(
      {
        width: box.clientWidth,
        height: box.clientHeight,
        legend: { show: false },
        cursor: { show: false },
        scales: {
          x: { time: false },
          y: { range: [0, Math.max(...d.power, 10) * 1.3] },
          t: { range: [0, hottest * 1.45] },
        },
        series,
        axes: [
          short({
            size: 28,
            values: (_u, v) => v.map((x, k) => (k === v.length - 1 ? `${x} ${d.units.kmh}` : `${x}`)),
          }),
          axis({ size: 42, label: "W", labelSize: 14 }),
          axis({ scale: "t", side: 1, size: 40, label: d.units.c, labelSize: 14, grid: { show: false }, stroke: soft }),
        ],
        hooks: { draw: [peak, key(curves)] },
      },
      data,
      box,
    );
  };

  /* files: dropped anywhere on the page, and their progress */
  document.addEventListener("dragover", (event) => {
    const room = event.target.closest?.("[data-drop]");
    if (room) {
      event.preventDefault();
      room.classList.add("dropping");
    }
  });
  document.addEventListener("dragleave", (event) => {
    event.target.closest?.("[data-drop]")?.classList.remove("dropping");
  });
  document.addEventListener("drop", (event) => {
    const room = event.target.closest?.("[data-drop]");
    if (!room) return;
    event.preventDefault();
    room.classList.remove("dropping");
    const input = $(room.dataset.drop);
    if (!event.dataTransfer.files.length) return;
    input.files = event.dataTransfer.files;
    input.dispatchEvent(new Event("change", { bubbles: true }));
  });
  const reading = () => $("#reading");
  document.addEventListener("htmx:xhr:progress", (event) => {
    const bar = event.target.closest?.("#file-form, .columns-form") && reading();
    if (!bar || !event.detail.lengthComputable) return;
    bar.hidden = false;
    const progress = $("progress", bar),
      sent = event.detail.loaded >= event.detail.total;
    if (sent) progress.removeAttribute("value");
    else progress.value = (100 * event.detail.loaded) / event.detail.total;
    $("span", bar).textContent = sent ? "reading the ride" : "sending";
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.target.closest?.("#file-form, .columns-form") && reading()) reading().hidden = true;
    // the same file may be chosen again after it was mended
    if (event.target.id === "file-form" && !event.detail.successful) $("#ride-file").value = "";
  });
})();
