"use strict";
// Rows that can be added before saving, and lists that narrow while one types.
// A new row is a copy of the last one, with its number and its fields cleared.

(() => {
  const renumber = (text, name, from, to) => {
    const id = name.replaceAll(".", "-");
    return text.replace(`${name}.${from}.`, `${name}.${to}.`).replace(`${id}-${from}-`, `${id}-${to}-`);
  };

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-add-row]");
    if (!button) return;
    const name = button.dataset.addRow;
    const rows = [...document.querySelectorAll(`[data-rows="${name}"] [data-row]`)];
    const last = rows[rows.length - 1];
    if (!last) return;
    const from = rows.length - 1;
    const copy = last.cloneNode(true);
    for (const element of copy.querySelectorAll("[name], [id], [for], [aria-describedby]")) {
      for (const attribute of ["name", "id", "for", "aria-describedby"]) {
        const value = element.getAttribute(attribute);
        if (value) element.setAttribute(attribute, renumber(value, name, from, rows.length));
      }
    }
    for (const field of copy.querySelectorAll("input")) {
      if (field.type === "checkbox") field.checked = field.defaultChecked && false;
      else if (field.type !== "hidden") field.value = "";
    }
    for (const mistake of copy.querySelectorAll(".help.is-danger")) mistake.remove();
    last.after(copy);
    const first = copy.querySelector("input:not([type=hidden]), select");
    if (first) first.focus();
  });

  document.addEventListener("alpine:init", () => {
    Alpine.data("finder", () => ({
      find(event) {
        const wanted = event.target.value.trim().toLowerCase();
        for (const item of this.$root.querySelectorAll("[data-find]")) {
          item.hidden = wanted !== "" && !item.dataset.find.includes(wanted);
        }
        for (const group of this.$root.querySelectorAll("[data-find-group]")) {
          group.hidden = !group.querySelector("[data-find]:not([hidden])");
        }
      },
    }));
  });
})();
