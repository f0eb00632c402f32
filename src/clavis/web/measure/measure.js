/* The walk: the field in hand lights its dimension in the drawing, and a gauge sends into it. */
(() => {
  "use strict";
  const $ = (selector, root = document) => root.querySelector(selector);
  let hand = null;
  document.addEventListener("focusin", (event) => {
    const drawn = $("#drawn"),
      path = drawn && event.target.dataset?.field;
    if (!path) return;
    hand = { path, id: event.target.id };
    const [end, name] = path.split(".");
    drawn
      .querySelectorAll("[data-dim]")
      .forEach((dim) => dim.classList.toggle("lit", dim.dataset.dim.split(" ").includes(name)));
    const label = $(`label[for="${event.target.id}"]`);
    if ($("#in-hand"))
      $("#in-hand").textContent =
        `In hand: ${end}, ${label ? label.firstChild.textContent.trim().toLowerCase() : name}`;
  });
  const showTold = () => {
    document.querySelectorAll("#drawn .tile").forEach((tile) => {
      for (const end of ["front", "rear"])
        tile.classList.toggle(`told-${end}`, $(`#told-${end}`)?.dataset.kind === tile.dataset.told);
    });
  };
  document.addEventListener("DOMContentLoaded", showTold);
  document.addEventListener("htmx:afterSettle", showTold);
  const send = () => {
    const box = $("#gauge");
    if (!box) return;
    const field = hand && document.getElementById(hand.id);
    if (!field) {
      $("#notice").innerHTML =
        '<p class="problem" role="alert">Put the cursor into the field that the gauge shall fill.</p>';
      return;
    }
    const target = field.closest(".rotor") ?? field.closest(".field");
    const state = Object.fromEntries(new FormData($("#state")));
    field.focus();
    htmx.ajax("POST", `/jobs/${box.dataset.job}/gauge`, {
      source: box,
      target,
      swap: "outerHTML",
      values: { ...state, path: hand.path, kind: $("#gauge-kind").value },
    });
  };
  /* A click on a mount's picture names it, on the wheel whose field was in hand last. */
  let lane = "front";
  document.addEventListener("focusin", (event) => {
    const at = event.target.closest(".walk-lane");
    if (at) lane = at.classList.contains("walk-rear") ? "rear" : "front";
  });
  const name = (kind) => {
    const box = $(`#f-${{ flat_front: "front", flat_rear: "rear" }[kind] ?? lane}-mount_named`);
    if (!box || ![...box.options].some((option) => option.value === kind)) return;
    box.value = kind;
    box.dispatchEvent(new Event("change", { bubbles: true }));
  };
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-send]")) send();
    const tile = event.target.closest(".tile[data-told]");
    if (tile) name(tile.dataset.told);
  });
  document.addEventListener("keydown", (event) => {
    if (event.altKey && event.key.toLowerCase() === "g") {
      event.preventDefault();
      send();
    }
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    // a gauge that was refused says so in the corner; the field stays as it was
    if (event.detail.requestConfig?.path.endsWith("/gauge") && event.detail.xhr.status >= 400) {
      event.detail.shouldSwap = false;
      $("#notice").innerHTML = event.detail.xhr.responseText;
    }
  });
})();
