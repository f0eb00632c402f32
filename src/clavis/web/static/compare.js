/* The comparison: the ring of every setup over the way, front above rear, each line with its letter at its end. */
(() => {
  "use strict";
  const { axis, drawers } = window.clavis;
  const LINES = [["#6b7a73", [2, 3]], ["#123c34", []], ["#b5651d", [8, 4]], ["#26415e", [3, 3]], ["#7a2f5d", [10, 3, 2, 3]], ["#4d6b1e", [6, 2]]];
  drawers.compare = (box, d) => {
    const half = Math.floor(box.clientHeight / 2), hottest = Math.max(...Object.values(d.ends).flat().flatMap(([, values]) => values), 100);
    Object.entries(d.ends).forEach(([end, lines], place) => {
      const room = document.createElement("div");
      box.append(room);
      const letters = (u) => {
        const c = u.ctx, taken = [];
        c.save(); c.font = `700 ${13 * devicePixelRatio}px Sofia`; c.textBaseline = "middle";
        lines.forEach(([letter, values]) => {
          let y = u.valToPos(values[values.length - 1], "y", true);
          while (taken.some((t) => Math.abs(t - y) < 13 * devicePixelRatio)) y -= 13 * devicePixelRatio;
          taken.push(y);
          c.fillStyle = LINES[letter.charCodeAt(0) - 65][0];
          c.fillText(letter, u.bbox.left + u.bbox.width + 5 * devicePixelRatio, y);
        });
        c.restore();
      };
      new uPlot({
        width: box.clientWidth, height: half, legend: { show: false }, cursor: { show: false }, padding: [8, 22, 0, 0],
        scales: { x: { time: false }, y: { range: [0, hottest * 1.1] } },
        series: [{}, ...lines.map(([letter]) => ({ stroke: LINES[letter.charCodeAt(0) - 65][0], dash: LINES[letter.charCodeAt(0) - 65][1], width: 2, points: { show: false } }))],
        axes: [axis({ size: 24, values: (_u, v) => v.map((x, k) => (k === v.length - 1 ? `${x} ${d.units.km}` : `${x}`)) }), axis({ size: 46, label: `${end} ring ${d.units.c}`, labelSize: 15 })],
        hooks: { draw: [letters] },
      }, [d.km, ...lines.map(([, values]) => values)], room);
      room.dataset.place = String(place);
    });
  };
})();
