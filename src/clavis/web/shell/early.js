/* What a hand does on a page before its scripts listen, on a slow machine or network, is done once they do. */
(() => {
  "use strict";
  const early = [];
  const still = (el, act) => () => el.isConnected && act();
  const heard = (event) => {
    const { type, target } = event;
    if (type === "change") {
      early.push(still(target, () => target.dispatchEvent(new Event("change", { bubbles: true }))));
    } else if (type === "submit" && target.matches("[hx-post], [hx-get]")) {
      event.preventDefault();
      early.push(still(target, () => target.requestSubmit(event.submitter)));
    } else if (type === "click") {
      const button = target.closest?.("button[type=button]");
      if (button) early.push(still(button, () => button.click()));
    } else if (type === "keydown" && target === document.body) {
      early.push(() => target.dispatchEvent(new KeyboardEvent("keydown", event)));
    }
  };
  const TYPES = ["change", "submit", "click", "keydown"];
  TYPES.forEach((type) => document.addEventListener(type, heard, true));
  // htmx looks through the page at this same moment: after it, every script listens
  document.addEventListener("DOMContentLoaded", () =>
    setTimeout(() => {
      TYPES.forEach((type) => document.removeEventListener(type, heard, true));
      early.forEach((act) => act());
    }),
  );
})();
