/* Saving: what is on its way, what did not arrive and is sent again, and what was typed and not sent yet. */
(() => {
  "use strict";
  const AGAIN_MS = 4000,
    SHOWN_AFTER_MS = 250,
    KEPT_MS = 7 * 24 * 3600 * 1000;
  const $ = (selector) => document.querySelector(selector);
  const flying = new Map(); // by request, what asked
  let failed = false,
    signedOut = false,
    timer = 0;

  const tell = (state, text) => {
    const place = $("#saving");
    if (!place || (place.dataset.state === state && place.textContent === text)) return;
    place.dataset.state = state;
    place.textContent = text;
  };
  const show = () => {
    clearTimeout(timer);
    if (unsent.size && signedOut)
      tell("not", "Not saved: you are signed out. Sign in again in another tab: it is sent then.");
    else if (unsent.size) tell("not", "Not saved: Clavis does not answer. It is sent again by itself.");
    else if (failed) tell("not", "Not done: Clavis does not answer. Press it again.");
    else if (flying.size) timer = setTimeout(() => tell("saving", "saving …"), SHOWN_AFTER_MS);
    else tell("saved", "saved");
  };

  /* What is kept in the browser: by job and field. A browser that keeps nothing loses nothing else by it. */
  const kept = (name) => {
    try {
      return new Map(Object.entries(JSON.parse(localStorage.getItem(name) || "{}")));
    } catch {
      return new Map();
    }
  };
  const keep = (name, map) => {
    try {
      localStorage.setItem(name, JSON.stringify(Object.fromEntries(map)));
    } catch {
      // full or forbidden: the page itself still holds what was typed
    }
  };
  const UNSENT = "clavis-unsent",
    DRAFTS = "clavis-drafts";
  const unsent = kept(UNSENT),
    drafts = kept(DRAFTS);
  const job = () => $("[data-job]")?.dataset.job;
  const keyOf = (field) => `${job()} ${field.dataset.field}`;
  /* An entry as its form would send it. */
  const valueOf = (field) => (field.type === "checkbox" && !field.checked ? "" : field.value);
  const isField = (el) => el?.matches?.("[data-field][hx-post$='/field']");

  /* Typed, and not sent yet. */
  document.addEventListener("focusin", ({ target }) => {
    if (isField(target)) target.dataset.was = target.value;
  });
  document.addEventListener("input", ({ target }) => {
    if (!isField(target) || target.type === "checkbox") return;
    drafts.set(keyOf(target), { was: target.dataset.was ?? target.defaultValue, value: target.value, at: Date.now() });
    keep(DRAFTS, drafts);
  });
  const dropDraft = (key) => {
    if (drafts.delete(key)) keep(DRAFTS, drafts);
  };
  window.addEventListener("pagehide", () => {
    const field = document.activeElement;
    if (!isField(field) || field.dataset.was === undefined || field.value === field.dataset.was) return;
    const body = new FormData($("#state"));
    body.set("path", field.dataset.field);
    body.set("value", field.value);
    navigator.sendBeacon(field.getAttribute("hx-post"), body);
  });
  document.addEventListener("DOMContentLoaded", () => {
    for (const [key, draft] of drafts) {
      if (Date.now() - draft.at > KEPT_MS) drafts.delete(key);
      const [number, path] = key.split(" ");
      const field = number === job() && $(`[data-field="${CSS.escape(path)}"]`);
      if (!field) continue;
      drafts.delete(key);
      // another value stands there since: it was sent as the page was left, or somebody else was there
      if (field.value !== draft.was || field.value === draft.value) continue;
      for (let box = field.closest("details"); box; box = box.parentElement.closest("details")) box.open = true;
      field.value = draft.value;
      field.dispatchEvent(new Event("change", { bubbles: true }));
    }
    keep(DRAFTS, drafts);
    if (unsent.size) again();
    show();
  });

  /* A form that is not sent yet: what was typed into it stands there again, for a day. */
  const FORMS = "clavis-forms",
    FORM_MS = 24 * 3600 * 1000;
  const forms = kept(FORMS);
  const inForm = (el) => {
    const form = el.closest?.("form[hx-post], form[data-change]");
    const typed = el.matches?.("textarea, input:not([type]), input:is([type=text], [type=tel], [type=email])");
    return form && typed && el.name && !el.dataset.field ? form : null;
  };
  const placeOf = (form) => `${location.pathname} ${form.getAttribute("hx-post") || form.getAttribute("action")}`;
  document.addEventListener("input", ({ target }) => {
    const form = inForm(target);
    if (!form) return;
    forms.set(`${placeOf(form)} ${target.name}`, { value: target.value, at: Date.now() });
    keep(FORMS, forms);
  });
  const sent = (form) => {
    for (const key of forms.keys()) if (key.startsWith(`${placeOf(form)} `)) forms.delete(key);
    keep(FORMS, forms);
  };
  document.addEventListener("submit", ({ target }) => {
    if (target.matches("form[data-change]")) sent(target);
  });
  const refill = (root) =>
    root.querySelectorAll("form[hx-post], form[data-change]").forEach((form) => {
      for (const el of form.elements) {
        const was = inForm(el) === form && forms.get(`${placeOf(form)} ${el.name}`);
        if (was && !el.value && Date.now() - was.at < FORM_MS) el.value = was.value;
      }
    });
  document.addEventListener("htmx:load", ({ detail }) => refill(detail.elt.parentElement ?? document));

  /* On its way. What asked may be drawn anew before its answer is there, and htmx then tells nobody: the request itself
     tells. */
  const posts = (detail) => detail.requestConfig?.verb === "post";
  document.addEventListener("htmx:beforeSend", ({ detail }) => {
    if (!posts(detail)) return;
    const { xhr } = detail,
      { elt } = detail.requestConfig;
    flying.set(xhr, elt);
    xhr.addEventListener("loadend", () => {
      flying.delete(xhr);
      arrived(elt, detail.requestConfig.path, xhr.status);
    });
    show();
  });
  /* A field that is being typed into, or on its way, is not drawn anew by the answer to another one. */
  document.addEventListener("htmx:oobBeforeSwap", ({ detail }) => {
    const field = detail.target.matches(".field") && detail.target.querySelector("[data-field]");
    if (!field) return;
    const typing =
      document.activeElement === field && field.dataset.was !== undefined && field.dataset.was !== field.value;
    if (typing || [...flying.values()].includes(field)) detail.shouldSwap = false;
  });
  /* What was not taken stays where it was typed: no answer takes its place. */
  document.addEventListener("htmx:beforeSwap", ({ detail }) => {
    if (posts(detail) && [401, 503].includes(detail.xhr.status)) detail.shouldSwap = false;
  });
  const arrived = (elt, address, status) => {
    signedOut = status === 401;
    const lost = status === 0 || status === 503 || signedOut;
    if (elt.matches("form[hx-post]") && status >= 200 && status < 400) sent(elt);
    if (isField(elt)) {
      const key = keyOf(elt);
      if (lost) {
        // with the version that the page showed: what somebody else changed since is not overwritten
        const state = Object.fromEntries(new FormData($("#state")));
        unsent.set(key, { ...state, address, path: elt.dataset.field, value: valueOf(elt) });
        setTimeout(again, AGAIN_MS);
      } else {
        unsent.delete(key);
        dropDraft(key);
      }
      keep(UNSENT, unsent);
    }
    failed = lost && !isField(elt);
    show();
  };

  /* Sent again, one after the other: where the field is on this page it is changed once more, else it is sent as it was. */
  const answers = async () => {
    try {
      return (await fetch("/alive", { cache: "no-store" })).ok;
    } catch {
      return false;
    }
  };
  const sendFirst = async () => {
    const first = unsent.entries().next().value;
    if (!first || !(await answers())) return;
    const [key, { address, ...one }] = first;
    const field = key.split(" ")[0] === job() && $(`[data-field="${CSS.escape(one.path)}"]`);
    if (field && document.activeElement === field && valueOf(field) !== one.value) return; // being typed anew
    if (field) {
      if (field.type === "checkbox") field.checked = one.value !== "";
      else field.value = one.value;
      field.dispatchEvent(new Event("change", { bubbles: true }));
      return; // what becomes of it is told by its own answer
    }
    const body = new FormData();
    for (const [name, value] of Object.entries(one)) body.set(name, value);
    const answer = await fetch(address, { method: "POST", body });
    if (answer.status === 503 || answer.status === 401) return;
    unsent.delete(key);
    keep(UNSENT, unsent);
    if (!answer.ok) $("#notice").textContent = `What was typed without a network could not be saved: ${one.value}`;
    await sendFirst();
  };
  let trying = false;
  const again = async () => {
    if (trying || !unsent.size) return;
    trying = true;
    await sendFirst().catch(() => {}); // gone again: it is still kept
    trying = false;
    if (unsent.size) setTimeout(again, AGAIN_MS);
    show();
  };
  window.addEventListener("online", again);
})();
