/* What an eye would stumble over on a page: text cut off, text over text, a page wider than its window, targets too small. */
() => {
  const found = [];
  const name = (e) => {
    const mine = e.id ? `#${e.id}` : e.classList?.length ? `.${[...e.classList].join(".")}` : e.tagName.toLowerCase();
    const around = e.parentElement?.closest("[id], [class]");
    const about = around ? `${around.id ? `#${around.id}` : `.${[...around.classList].slice(0, 2).join(".")}`} ` : "";
    return `${about}${mine} “${(e.textContent || "").trim().replace(/\s+/g, " ").slice(0, 40)}”`;
  };
  const style = new Map();
  const of = (e) => style.get(e) || (style.set(e, getComputedStyle(e)), style.get(e));
  const hidden = (e) => {
    if (!e.checkVisibility({ opacityProperty: true, visibilityProperty: true, contentVisibilityAuto: true })) return true;
    for (let at = e; at && at !== document.documentElement; at = at.parentElement) {
      const s = of(at);
      if (s.visibility === "hidden" || s.display === "none" || Number(s.opacity) === 0) return true;
      if (at.classList.contains("visually-hidden") || at.classList.contains("skip")) return true;
    }
    return false;
  };
  const scrolls = (e) => {
    for (let at = e.parentElement; at && at !== document.body; at = at.parentElement)
      if (/(auto|scroll)/.test(of(at).overflowX)) return true;
    return false;
  };
  const page = document.scrollingElement;
  if (page.scrollWidth > innerWidth + 1) found.push(`wide: the page is ${page.scrollWidth} wide in ${innerWidth}`);
  for (const e of document.body.querySelectorAll("*")) {
    if (e.closest("svg") && e.tagName !== "svg") continue;
    const s = of(e);
    const clips = /(hidden|clip)/.test(s.overflowX + s.overflowY);
    if (clips && e.clientWidth && e.textContent.trim() && !hidden(e) && !e.title) {
      if (e.scrollWidth > e.clientWidth + 1 && s.overflowX !== "visible") found.push(`cut: ${name(e)}`);
      else if (e.scrollHeight > e.clientHeight + 2 && s.overflowY !== "visible") found.push(`cut: ${name(e)}`);
    }
    if (/^(INPUT|SELECT)$/.test(e.tagName) && !hidden(e)) {
      if (e.tagName === "INPUT" && e.scrollWidth > e.clientWidth + 1 && /text|search|/.test(e.type)) found.push(`cut: ${name(e)} ${e.name} ${e.value || e.placeholder}`);
    }
  }
  /* What is left of a box where something around it clips it on purpose. */
  const shown = (e, box) => {
    const left = { left: box.left, right: box.right, top: box.top, bottom: box.bottom };
    for (let at = e; at && at !== document.body; at = at.parentElement) {
      const s = of(at);
      if (s.overflowX === "visible" && s.overflowY === "visible") continue;
      const around = at.getBoundingClientRect();
      left.left = Math.max(left.left, around.left);
      left.right = Math.min(left.right, around.right);
      left.top = Math.max(left.top, around.top);
      left.bottom = Math.min(left.bottom, around.bottom);
    }
    return left;
  };
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const e = node.parentElement;
    if (!node.data.trim() || !e || /^(SCRIPT|STYLE|OPTION|TITLE|TEXTAREA|NOSCRIPT)$/.test(e.tagName) || e.closest("dialog:not([open]), math")) continue;
    if (hidden(e)) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    for (const whole of range.getClientRects()) {
      const box = shown(e, whole);
      if (box.right - box.left > 2 && box.bottom - box.top > 2) texts.push({ e, box });
    }
  }
  for (const { e, box } of texts)
    if (box.right > innerWidth + 1 && !scrolls(e) && !e.closest(".u-over, .u-under")) found.push(`beyond: ${name(e)}`);
  texts.sort((a, b) => a.box.top - b.box.top);
  texts.forEach((a, k) => {
    for (let n = k + 1; n < texts.length && texts[n].box.top < a.box.bottom - 3; n++) {
      const b = texts[n];
      if (a.e.contains(b.e) || b.e.contains(a.e)) continue;
      const wide = Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left);
      const high = Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
      const least = Math.min(a.box.bottom - a.box.top, b.box.bottom - b.box.top);
      if (wide > 3 && high > 0.35 * least) found.push(`over: ${name(a.e)} and ${name(b.e)}`);
    }
  });
  const least = matchMedia("(pointer: coarse)").matches ? 44 : 24;
  for (const e of document.querySelectorAll("a, button, input, select, summary, [role=button]")) {
    if (hidden(e) || e.closest("svg, dialog:not([open])") || e.disabled) continue;
    const inText = e.tagName === "A" && of(e).display === "inline";
    const box = e.getBoundingClientRect();
    if (!box.width || inText) continue;
    const label = /checkbox|radio/.test(e.type) ? e.closest("label")?.getBoundingClientRect() : null;
    const high = Math.max(box.height, label ? label.height : 0);
    const wide = Math.max(box.width, label ? label.width : 0);
    if (high < least - 0.5 || wide < least - 0.5) found.push(`small: ${name(e)} ${Math.round(wide)} × ${Math.round(high)}`);
  }
  return [...new Set(found)];
}
