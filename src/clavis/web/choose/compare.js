/* The comparison: the rotor of every setup over the way with its band, and cooling after it; front above rear, each line
   with its letter at its end. */
(() => {
  "use strict";
  const { colour, axis, drawers } = window.clavis;
  const LINES = [
    ["setup-1", [2, 3]],
    ["enamel-ink", []],
    ["setup-3", [8, 4]],
    ["fluid", [3, 3]],
    ["setup-5", [10, 3, 2, 3]],
    ["setup-6", [6, 2]],
  ].map(([name, dash]) => [colour(name), dash]);
  /* beside what is fitted, which is grey, the others have their colours; an argument has no fitted side */
  let first = 0;
  const line = (letter) => LINES[letter.charCodeAt(0) - 65 + first];
  const letters = (lines) => (u) => {
    const c = u.ctx,
      gap = 13 * devicePixelRatio,
      floor = u.bbox.top + u.bbox.height - gap / 2;
    const places = lines
      .map(([letter, values]) => ({ letter, y: u.valToPos(values[values.length - 1], "y", true) }))
      .toSorted((a, b) => a.y - b.y);
    places.forEach((p, k) => {
      p.y = Math.max(p.y, u.bbox.top + gap / 2, k ? places[k - 1].y + gap : 0);
    });
    const over = Math.max((places[places.length - 1]?.y ?? 0) - floor, 0);
    c.save();
    c.font = `700 ${gap}px Sofia`;
    c.textBaseline = "middle";
    places.forEach(({ letter, y }) => {
      c.fillStyle = line(letter)[0];
      c.fillText(letter, u.bbox.left + u.bbox.width + 5 * devicePixelRatio, y - over);
    });
    c.restore();
  };
  const shade = (bands, xs) => (u) => {
    const c = u.ctx;
    c.save();
    c.globalAlpha = 0.13;
    c.beginPath();
    c.rect(u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height);
    c.clip();
    Object.entries(bands).forEach(([letter, { low, high }]) => {
      c.fillStyle = line(letter)[0];
      c.beginPath();
      xs.forEach((x, k) => c.lineTo(u.valToPos(x, "x", true), u.valToPos(high[k], "y", true)));
      [...xs.keys()].toReversed().forEach((k) => c.lineTo(u.valToPos(xs[k], "x", true), u.valToPos(low[k], "y", true)));
      c.fill();
    });
    c.restore();
  };
  const draw = (room, width, height, xs, lines, bands, top, sign, label) =>
    new uPlot(
      {
        width,
        height,
        legend: { show: false },
        cursor: { show: false },
        padding: [8, 22, 0, 0],
        scales: { x: { time: false }, y: { range: [0, top] } },
        series: [
          {},
          ...lines.map(([letter]) => ({
            stroke: line(letter)[0],
            dash: line(letter)[1],
            width: 2,
            points: { show: false },
          })),
        ],
        axes: [
          axis({ size: 24, values: (_u, v) => v.map((x, k) => (k === v.length - 1 ? `${x} ${sign}` : `${x}`)) }),
          axis({ size: 46, label: label || undefined, labelSize: 15 }),
        ],
        hooks: { drawAxes: [shade(bands, xs)], draw: [letters(lines)] },
      },
      [xs, ...lines.map(([, values]) => values)],
      room,
    );
  drawers.compare = (box, d) => {
    first = box.dataset.about ? 1 : 0;
    const half = Math.floor(box.clientHeight / 2),
      ride = Math.floor(box.clientWidth * 0.66);
    const hottest =
      Math.max(
        ...Object.values(d.ends)
          .flat()
          .flatMap(([, values]) => values),
        100,
      ) * 1.12;
    Object.entries(d.ends).forEach(([end, lines]) => {
      const pair = Object.assign(document.createElement("div"), { className: "course-pair" }),
        bands = {};
      const rooms = [0, 1].map(() => pair.appendChild(document.createElement("div")));
      box.append(pair);
      const chart = draw(rooms[0], ride, half, d.km, lines, bands, hottest, d.units.km, `${end} rotor ${d.units.c}`);
      draw(rooms[1], box.clientWidth - ride, half, d.minutes, d.stands[end], {}, hottest, "min after", "");
      const asked = `about=${box.dataset.about}&end=${box.dataset.end}`;
      d.keys
        .filter(([letter]) => lines.some(([own]) => own === letter))
        .forEach(([letter, key]) => {
          fetch(`/jobs/${box.dataset.job}/compare/${key}/${end}/band?${asked}`)
            .then((answer) => (answer.ok ? answer.json() : null))
            .then((found) => {
              if (found) {
                bands[letter] = found;
                chart.redraw(false);
              }
            })
            .catch(() => {});
        });
    });
  };
})();
