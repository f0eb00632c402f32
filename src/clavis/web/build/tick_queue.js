/* Ticks that are kept in the browser until the server has them: sent in order, again and again while it is not reached. */
window.clavisTicks = (job, told) => {
  "use strict";
  const { line, refused } = told;
  const KEY = `clavis.ticks.${job}`;
  const AGAIN_MS = 4000;
  let sending = false;
  const kept = () => JSON.parse(localStorage.getItem(KEY) || "[]");
  const keep = (list) => localStorage.setItem(KEY, JSON.stringify(list));
  const tell = () => line(kept().length);

  const wordsOf = (page) => new DOMParser().parseFromString(page, "text/html").body.textContent.trim();
  const send = (tick) => {
    const body = new URLSearchParams({ ...tick, quiet: "true", page: "work", room: "build" });
    return fetch(`/jobs/${job}/tick`, { method: "POST", body });
  };
  const same = (a, b) => a.key === b.key && a.state === b.state && a.at === b.at;
  const one = async () => {
    const [tick] = kept();
    if (!tick) return;
    const answer = await send(tick);
    /* not named yet, signed out, or the server in trouble: kept, and tried again */
    if (answer.status >= 500 || answer.status === 428 || answer.status === 401) return;
    keep(kept().filter((other) => !same(tick, other)));
    if (!answer.ok) refused(tick, wordsOf(await answer.text()));
    await one();
  };
  const flush = async () => {
    if (sending) return;
    sending = true;
    try {
      await one();
    } catch {
      /* not reached: kept, and tried again */
    } finally {
      sending = false;
      tell();
    }
  };
  window.addEventListener("online", flush);
  setInterval(() => kept().length && flush(), AGAIN_MS);
  return {
    kept,
    add: (tick) => {
      const at = new Date().toISOString().slice(0, 19);
      keep([...kept().filter((t) => t.key !== tick.key), { ...tick, at }]);
      tell();
      return flush();
    },
    flush,
  };
};
