// What an eye cannot read and a thumb cannot press: small letters, words over words in pictures,
// cut selects, low targets.
(least) => {
  const out = [];
  const vis = (e) => { const r = e.getBoundingClientRect(); const s = getComputedStyle(e); return r.width > 1 && r.height > 1 && s.visibility !== "hidden" && s.display !== "none" && !e.closest(".is-sr-only") && !e.closest("details:not([open]) > :not(summary)"); };
  const seen = new Set();
  for (const e of document.querySelectorAll("body *")) {
    if (![...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim())) continue;
    if (!vis(e) || e.closest("script,style,option,datalist")) continue;
    let px = parseFloat(getComputedStyle(e).fontSize);
    const svg = e.closest("svg");
    if (svg && e.getScreenCTM) { const m = e.getScreenCTM(); if (m) px *= Math.hypot(m.a, m.b); }
    if (px < least - 0.05) { const k = `small ${px.toFixed(1)} ${svg ? "svg#" + (svg.id || svg.getAttribute("class")) : e.tagName + "." + e.className}`; if (!seen.has(k)) { seen.add(k); out.push(k + " '" + e.textContent.trim().slice(0, 20) + "'"); } }
  }
  for (const svg of document.querySelectorAll("svg")) {
    if (svg.parentElement.closest("svg") || !vis(svg)) continue;
    const boxes = [];
    for (const text of svg.querySelectorAll("text")) {
      if (!vis(text) || !text.textContent.trim()) continue;
      const m = text.getScreenCTM(), r = text.getBoundingClientRect();
      const level = Math.abs(m.b) < 1e-3 * Math.abs(m.a), upright = Math.abs(m.a) < 1e-3 * Math.abs(m.b);
      if (!level && !upright) continue; // the box of a slanted name says nothing
      const x = upright ? 0.2 * r.width : 1, y = level ? 0.2 * r.height : 1; // letters, not their line
      const box = { text, l: r.left + x, r: r.right - x, t: r.top + y, b: r.bottom - y };
      for (const o of boxes) if (box.l < o.r && o.l < box.r && box.t < o.b && o.t < box.b) out.push(`over '${text.textContent.trim()}' '${o.text.textContent.trim()}'`);
      boxes.push(box);
    }
  }
  const ctx = document.createElement("canvas").getContext("2d");
  for (const s of document.querySelectorAll("select")) {
    if (!vis(s)) continue;
    const st = getComputedStyle(s); ctx.font = `${st.fontWeight} ${st.fontSize} ${st.fontFamily}`;
    const room = s.clientWidth - parseFloat(st.paddingLeft) - parseFloat(st.paddingRight);
    const t = s.selectedOptions[0] ? s.selectedOptions[0].textContent.trim().replace(/\s+/g, " ") : "";
    const w = ctx.measureText(t).width;
    if (w > room + 1) out.push(`select ${s.id || s.name} '${t.slice(0, 40)}' ${w.toFixed(0)}>${room.toFixed(0)}`);
  }
  if (innerWidth < 500) {
    const got = new Set();
    for (const e of document.querySelectorAll("a[href],button,input:not([type=hidden]),select,summary,textarea")) {
      if (!vis(e) || e.closest("svg")) continue;
      const r = e.getBoundingClientRect();
      const st = getComputedStyle(e);
      if (e.tagName === "A" && st.display === "inline") continue;
      if (e.matches("input[type=radio],input[type=checkbox]") && e.closest("label")) { const l = e.closest("label").getBoundingClientRect(); if (l.height >= 39.5) continue; }
      if (r.height < 39.5 && !(e.type === "range")) { const k = `target ${e.tagName}.${(e.className+"").slice(0, 40)} ${r.height.toFixed(0)}`; if (!got.has(k)) { got.add(k); out.push(k + " '" + (e.textContent || e.name || "").trim().slice(0, 24) + "'"); } }
    }
  }
  return out;
}
