/* Work mode: one step at a time; its place and its ticks are kept in the browser while the server is not reached. */
(() => {
  "use strict";
  const box = document.getElementById("work");
  const cards = [...box.querySelectorAll(".card[data-key]")];
  if (!cards.length) return;
  const $ = (name) => box.querySelector(`[data-${name}]`);
  const PLACE = `clavis.work.${box.dataset.job}`;
  const end = $("end");
  const cardOf = (key) => cards.find((card) => card.dataset.key === key);
  const words = { done: "done", skipped: "skipped", open: "" };
  let at = 0;

  const line = (waiting) => {
    $("line").textContent = waiting ? `not reached: ${waiting} kept here, sent when it is` : "";
    $("line").classList.toggle("waits", waiting > 0);
  };
  const mark = (card, state, said) => {
    card.dataset.state = state;
    card.querySelector("[data-said]").textContent = said || words[state];
    const done = cards.filter((c) => c.dataset.state !== "open").length;
    $("done").textContent = done;
    $("progress").value = done;
  };
  const refused = (tick, text) => {
    const card = cardOf(tick.key);
    $("refused").hidden = false;
    $("refused").textContent = `${card ? card.querySelector(".card-n").textContent + ": " : ""}${text}`;
    if (card) mark(card, "open");
  };
  const ticks = window.clavisTicks(box.dataset.job, { line, refused });

  const show = (k) => {
    at = Math.max(0, Math.min(k, cards.length));
    cards.forEach((card, n) => (card.hidden = n !== at));
    end.hidden = at < cards.length;
    const card = cards[at];
    const state = card ? card.dataset.state : "";
    $("skip-form").hidden = true;
    $("do").disabled = $("skip").disabled = !card;
    $("skip").disabled = !card || "needed" in card.dataset || state !== "open";
    $("do").textContent = state === "open" || !card ? "Done" : "Open again";
    $("do").classList.toggle("undo", Boolean(card) && state !== "open");
    $("back").disabled = at === 0;
    $("next").disabled = at === cards.length;
    localStorage.setItem(PLACE, card ? card.dataset.key : "end");
  };
  const nextOpen = () => {
    const after = cards.findIndex((c, n) => n > at && c.dataset.state === "open");
    const any = cards.findIndex((c) => c.dataset.state === "open");
    show(after >= 0 ? after : any >= 0 ? any : cards.length);
  };
  const put = (state, reason = "") => {
    const card = cards[at];
    $("refused").hidden = true;
    mark(card, state, state === "skipped" ? `skipped: “${reason}”` : "");
    ticks.add({ key: card.dataset.key, work: card.dataset.work, state, reason });
  };

  $("do").addEventListener("click", () => {
    if (cards[at].dataset.state !== "open") {
      put("open");
      show(at);
    } else {
      put("done");
      nextOpen();
    }
  });
  $("skip").addEventListener("click", () => {
    $("skip-form").hidden = false;
    $("skip-form").elements.reason.focus();
  });
  $("skip-no").addEventListener("click", () => ($("skip-form").hidden = true));
  $("skip-form").addEventListener("submit", (event) => {
    event.preventDefault();
    put("skipped", event.target.elements.reason.value.trim());
    event.target.reset();
    nextOpen();
  });
  $("back").addEventListener("click", () => show(at - 1));
  $("next").addEventListener("click", () => show(at + 1));
  document.addEventListener("keydown", (event) => {
    if (event.target.closest("input, a, button")) return;
    if (event.key === "ArrowLeft") show(at - 1);
    else if (event.key === "ArrowRight") show(at + 1);
    else if (event.key === "Enter" || event.key === " ") $("do").click();
    else return;
    event.preventDefault();
  });

  /* what was ticked here and is not sent yet stands already */
  for (const tick of ticks.kept()) {
    const card = cardOf(tick.key);
    if (card) mark(card, tick.state, tick.reason);
  }
  line(ticks.kept().length);
  ticks.flush();
  const place = localStorage.getItem(PLACE);
  const kept = cards.findIndex((card) => card.dataset.key === place);
  at = -1;
  if (kept >= 0) show(kept);
  else nextOpen();
})();
