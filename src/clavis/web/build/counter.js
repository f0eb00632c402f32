/* The counter at the roadside: counts stops, times the roll between them, keeps both in the browser; works offline. */
(() => {
  "use strict";
  const box = document.getElementById("counter");
  const $ = (name) => box.querySelector(`[data-${name}]`);
  const d = box.dataset;
  const stops = Number(d.stops),
    pauseMs = Number(d.pause) * 1000;
  const KEY = `clavis.bedding.${d.job}.${d.end}.${d.work}`;
  const words = $("do-words").dataset;
  let { done, rollsUntil } = { done: 0, rollsUntil: 0, ...JSON.parse(localStorage.getItem(KEY) || "{}") };

  const line = (waiting) => {
    $("line").textContent = waiting ? "not reached: kept here, sent when it is" : "";
    $("line").classList.toggle("waits", waiting > 0);
  };
  const refused = (_tick, text) => {
    $("refused").hidden = false;
    $("refused").textContent = text;
  };
  const ticks = window.clavisTicks(d.job, { line, refused });

  const show = () => {
    const over = done >= stops;
    const rollMs = over ? 0 : rollsUntil - Date.now();
    $("stop").textContent = over ? "✓" : done + 1;
    $("do-words").textContent = over ? words.doneWords : rollMs > 0 ? words.rollWords : words.stopWords;
    $("roll").textContent = rollMs > 0 ? `${Math.ceil(rollMs / 1000)} s` : "";
    $("stopped").disabled = over || rollMs > 0;
    $("back").disabled = done === 0;
  };
  const keep = () => localStorage.setItem(KEY, JSON.stringify({ done, rollsUntil }));
  $("stopped").addEventListener("click", () => {
    done += 1;
    rollsUntil = Date.now() + pauseMs;
    keep();
    show();
    if (done >= stops) ticks.add({ key: `${d.end}:bed_in`, work: d.work, state: "done", reason: "" });
  });
  $("back").addEventListener("click", () => {
    done -= 1;
    rollsUntil = 0;
    keep();
    show();
  });
  /* the screen stays on where the browser allows it */
  navigator.wakeLock?.request("screen").catch(() => {});
  setInterval(show, 250);
  line(ticks.kept().length);
  ticks.flush();
  show();
})();
