/* Charts: what all of them share, and the course of one wheel. The colours are those of colours.css. */
(() => {
  "use strict";
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
  const ink = colour("ink"),
    soft = colour("soft"),
    grid = colour("grid"),
    plate = colour("plate");
  const plain = (_u, values) => values.map((v) => (v === null ? "" : String(v).replace(/\B(?=(\d{3})+$)/, "\u202f")));
  const axis = (more) => ({
    values: plain,
    stroke: soft,
    font: "12px Sofia",
    grid: { stroke: grid, width: 1 },
    ticks: { stroke: grid, width: 1 },
    ...more,
  });
  const km = (more) => axis({ values: (_u, v) => v.map((x) => `${x}`), size: 26, ...more });
  const lineAt = (u, value, scale, dash, text) => {
    if (value === null || value === undefined) return;
    const y = u.valToPos(value, scale, true);
    if (y < u.bbox.top) return;
    const c = u.ctx;
    c.save();
    c.strokeStyle = ink;
    c.fillStyle = ink;
    c.lineWidth = devicePixelRatio;
    c.setLineDash(dash.map((d) => d * devicePixelRatio));
    c.beginPath();
    c.moveTo(u.bbox.left, y);
    c.lineTo(u.bbox.left + u.bbox.width, y);
    c.stroke();
    c.font = `600 ${12 * devicePixelRatio}px Sofia`;
    c.textAlign = "right";
    // on a plate of its own: neither curve nor line runs through it
    const right = u.bbox.left + u.bbox.width - 4 * devicePixelRatio,
      wide = c.measureText(text).width + 8 * devicePixelRatio;
    c.fillStyle = plate;
    c.fillRect(right - wide + 4 * devicePixelRatio, y - 17 * devicePixelRatio, wide, 15 * devicePixelRatio);
    c.fillStyle = ink;
    c.fillText(text, right, y - 5 * devicePixelRatio);
    c.restore();
  };
  const drawCourse = (box, d) => {
    const series = [{}];
    const data = [d.km];
    const add = (values, options) => {
      if (values) {
        data.push(values);
        series.push({ points: { show: false }, ...options });
      }
    };
    add(d.old_rotor, { label: "rotor as fitted", stroke: colour("rotor-before"), width: 1.3 });
    add(d.old_fluid, { label: "fluid as fitted", stroke: colour("fluid-before"), width: 1.3, dash: [7, 3] });
    add(d.rotor, { label: "rotor", stroke: colour("heat-6"), width: 2.6 });
    add(d.fluid, { label: "fluid", stroke: colour("fluid"), width: 2.6, dash: [7, 3] });
    const top = Math.max(...data.slice(1).flat(), d.boils ?? 0, 120);
    return new uPlot(
      {
        width: box.clientWidth,
        height: box.clientHeight,
        series,
        legend: { show: false },
        cursor: { y: false },
        scales: { x: { time: false }, y: { range: [0, top * 1.12] } },
        axes: [km(), axis({ size: 38, space: 20 })],
        hooks: {
          draw: [
            (u) => {
              lineAt(u, d.fade, "y", [6, 4], `fade ${d.fade}°`);
              lineAt(u, d.boils, "y", [2, 3], `boils ${Math.round(d.boils)}°`);
            },
          ],
        },
      },
      data,
      box,
    );
  };
  /* Other files of ours add the charts of their pages. */
  const drawers = { course: drawCourse };
  window.clavis = { colour, ink, soft, plate, axis, lineAt, drawers };
  const charts = (root) =>
    root.querySelectorAll?.("[data-chart]").forEach((box) => {
      if (box.dataset.drawn) return;
      box.dataset.drawn = "yes";
      drawers[box.dataset.chart](box, JSON.parse(box.querySelector("script").textContent));
    });
  const fonts = Promise.all([document.fonts.load("12px Sofia"), document.fonts.load("600 12px Sofia")]).catch(() => {});
  document.addEventListener("DOMContentLoaded", () => fonts.then(() => charts(document)));
  /* what is drawn anew is read first: its charts follow once it is painted */
  document.addEventListener("htmx:load", (event) =>
    fonts.then(() =>
      requestAnimationFrame(() => setTimeout(() => charts(event.detail.elt.parentElement || document), 0)),
    ),
  );
})();
