/* What a hand does on a page before its scripts listen, on a slow machine or network, is done once they do. */
(() => {
  "use strict";
  const early = [];
  /* Scripts that listen already do not hear it now: what is done again must not be done twice. */
  const later = (event, el, act) => {
    event.stopImmediatePropagation();
    early.push(() => el.isConnected && act());
  };
  const heard = (event) => {
    const { type, target } = event;
    if (type === "change") {
      later(event, target, () => target.dispatchEvent(new Event("change", { bubbles: true })));
    } else if (type === "submit" && target.matches("[hx-post], [hx-get]")) {
      event.preventDefault();
      later(event, target, () => target.requestSubmit(event.submitter));
    } else if (type === "click") {
      const button = target.closest?.("button[type=button]");
      if (button) later(event, button, () => button.click());
    } else if (type === "keydown" && target === document.body) {
      later(event, target, () => target.dispatchEvent(new KeyboardEvent("keydown", event)));
    }
  };
  const TYPES = ["change", "submit", "click", "keydown"];
  TYPES.forEach((type) => document.addEventListener(type, heard, true));
  // the window hears of it after the document's listeners, htmx's among them: from this moment every script listens
  window.addEventListener("DOMContentLoaded", () => {
    TYPES.forEach((type) => document.removeEventListener(type, heard, true));
    early.forEach((act) => act());
  });
})();
