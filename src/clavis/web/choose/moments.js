/* Along the ride: charts of both wheels, a slider that moves along it, and what is read out at that moment. */
(() => {
  "use strict";
  const { colour, ink, axis, lineAt } = window.clavis;
  const SHAPES = { hottest: "▲", weakest: "◆", "first failing": "✕" };
  const PLAY_S = 24;
  const begin = (box) => {
    const d = JSON.parse(box.querySelector("script").textContent);
    const last = d.km.length - 1;
    const slider = box.querySelector("[data-scrub]");
    const play = box.querySelector("[data-play]");
    const charts = [];
    let at = 0,
      timer = 0;

    /* the same left and right edge for all, so that one line runs through them */
    const LEFT = 50,
      RIGHT = 12;
    const marksOf = (end) => (u) => {
      const c = u.ctx,
        r = devicePixelRatio;
      c.save();
      c.font = `700 ${13 * r}px Sofia`;
      c.textAlign = "center";
      d.marks
        .filter((mark) => mark.end === end)
        .forEach((mark, k) => {
          const x = u.valToPos(d.km[mark.at], "x", true);
          c.fillStyle = mark.mark === "first failing" ? colour("stop") : ink;
          c.fillText(
            SHAPES[mark.mark],
            Math.min(Math.max(x, u.bbox.left + 6 * r), u.bbox.left + u.bbox.width - 6 * r),
            u.bbox.top + (12 + 13 * (k % 3)) * r,
          );
        });
      c.restore();
    };
    const now = (u) => {
      const c = u.ctx,
        x = u.valToPos(d.km[at], "x", true);
      c.save();
      c.strokeStyle = ink;
      c.lineWidth = 2 * devicePixelRatio;
      c.beginPath();
      c.moveTo(x, u.bbox.top);
      c.lineTo(x, u.bbox.top + u.bbox.height);
      c.stroke();
      c.restore();
    };
    const plain = (_u, values) => values.map((v) => `${v}`);
    const make = (place, ways, data, series, bands, top, hooks) =>
      charts.push(
        new uPlot(
          {
            width: place.clientWidth,
            height: place.clientHeight,
            legend: { show: false },
            cursor: { show: false },
            padding: [6, RIGHT, 0, 0],
            scales: { x: { time: false }, y: { range: top } },
            series: [{}, ...series],
            bands,
            axes: [
              axis({ size: ways ? 26 : 6, values: ways ? plain : (_u, v) => v.map(() => "") }),
              axis({ size: LEFT, space: 20 }),
            ],
            hooks: { draw: hooks },
          },
          data,
          place,
        ),
      );
    for (const place of box.querySelectorAll(".moments-chart")) {
      const w = d.ends[place.dataset.end];
      const data = [d.km],
        series = [],
        bands = [];
      const hidden = { width: 0, points: { show: false } };
      for (const [node, fill] of [
        ["rotor", "rotor-band"],
        ["fluid", "fluid-band"],
      ]) {
        if (!w.bands[node]) continue;
        const [low, high] = w.bands[node];
        data.push(low, high);
        series.push(hidden, hidden);
        bands.push({ series: [series.length, series.length - 1], fill: colour(fill) });
      }
      const add = (values, name, width, dash) => {
        if (!values) return;
        data.push(values);
        series.push({ stroke: colour(name), width, dash, points: { show: false } });
      };
      add(w.pads, "pad-line", 1.6, [2, 2]);
      add(w.rotor, "heat-6", 2.6);
      add(w.fluid, "fluid", 2.6, [7, 3]);
      const top = Math.max(...data.slice(1).flat(), w.boils ?? 0, 120) * 1.1;
      make(
        place,
        false,
        data,
        series,
        bands,
        [0, top],
        [
          (u) => {
            lineAt(u, w.fade, "y", [6, 4], `fade ${Math.round(w.fade)}°`);
            lineAt(u, w.boils, "y", [2, 3], `boils ${Math.round(w.boils)}°`);
          },
          marksOf(place.dataset.end),
          now,
        ],
      );
    }
    const profile = box.querySelector(".moments-profile");
    const low = Math.min(...d.height),
      high = Math.max(...d.height),
      room = Math.max((high - low) * 0.1, 2);
    make(
      profile,
      true,
      [d.km, d.height],
      [{ stroke: colour("enamel-ink"), fill: colour("stripe"), width: 2, points: { show: false } }],
      [],
      [low - room, high + room],
      [now],
    );

    const tell = (k) => {
      at = Math.min(Math.max(k, 0), last);
      slider.value = String(at);
      slider.setAttribute("aria-valuetext", `${d.where[at]}, ${d.speed[at]}`);
      box.querySelector("[data-where]").textContent = d.where[at];
      box.querySelector("[data-speed]").textContent = d.speed[at];
      box.querySelector("[data-slope]").textContent = d.slope[at];
      box.querySelector("[data-mark-words]").textContent = d.marks
        .filter((mark) => mark.at === at)
        .map((mark) => `${SHAPES[mark.mark]} ${mark.end}: ${mark.words}`)
        .join("; ");
      for (const [end, w] of Object.entries(d.ends))
        for (const [key, values] of Object.entries(w.told)) {
          const cell = box.querySelector(`[data-told="${end}-${key}"]`);
          cell.textContent = values[at];
          cell.classList.toggle("bad", values[at] === "boils");
        }
      charts.forEach((u) => u.redraw(false, false));
    };
    const stop = () => {
      clearInterval(timer);
      timer = 0;
      play.setAttribute("aria-pressed", "false");
      play.textContent = "Play the ride";
    };
    slider.max = String(last);
    slider.addEventListener("input", () => {
      stop();
      tell(Number(slider.value));
    });
    box.addEventListener("click", (event) => {
      const mark = event.target.closest("[data-mark]");
      if (!mark) return;
      stop();
      tell(d.marks[Number(mark.dataset.mark)].at);
      slider.focus();
    });
    const point = (event) => {
      const chart = charts.find((u) => u.root.contains(event.target));
      if (!chart || (event.type === "pointermove" && !event.buttons)) return;
      const x = chart.posToVal(event.clientX - chart.over.getBoundingClientRect().left, "x");
      const next = d.km.findIndex((km) => km >= x);
      stop();
      tell(next < 0 ? last : next);
    };
    box.querySelector(".moments-charts").addEventListener("pointerdown", point);
    box.querySelector(".moments-charts").addEventListener("pointermove", point);
    play.addEventListener("click", () => {
      if (timer) {
        stop();
        return;
      }
      const whole = d.seconds[last] - d.seconds[0];
      if (at >= last) tell(0);
      const from = d.seconds[at],
        begun = performance.now();
      play.setAttribute("aria-pressed", "true");
      play.textContent = "Pause";
      timer = setInterval(() => {
        if (!box.isConnected) {
          clearInterval(timer);
          return;
        }
        const clock = from + (whole * (performance.now() - begun)) / 1000 / PLAY_S;
        const next = d.seconds.findIndex((s) => s >= clock);
        tell(next < 0 ? last : next);
        if (next < 0) stop();
      }, 60);
    });
    const first = d.marks.find((mark) => mark.mark === "first failing") ?? d.marks[0];
    tell(first ? first.at : 0);
  };
  const all = () =>
    document.querySelectorAll("[data-moments]:not([data-drawn])").forEach((box) => {
      box.dataset.drawn = "yes";
      begin(box);
    });
  document.addEventListener("htmx:load", () => document.fonts.ready.then(all));
})();
