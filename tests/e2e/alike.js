// Takes away rows that look like the two before them, words apart: a build page has thousands, and
// axe takes seconds for what it has measured already.
() => {
  const look = (element) => `${element.tagName}.${element.getAttribute("class")}`;
  const whole = (element) => [...new Set([element, ...element.querySelectorAll("*")].map(look))].sort().join();
  for (const parent of document.querySelectorAll("ul, ol, dl, tbody, div, section, form, g, fieldset")) {
    if (!parent.isConnected || parent.childElementCount < 4) continue;
    const seen = new Map();
    for (const child of [...parent.children]) {
      const words = whole(child);
      seen.set(words, (seen.get(words) || 0) + 1);
      if (seen.get(words) > 2) child.remove();
    }
  }
}
