"use strict";
// Dragging points of the layout with mouse, touch or pen, and moving them with arrow keys.
// The page turns pixels into metres by the drawing's own scale; everything else is the server's.

(() => {
  const STEP_M = 0.05;
  const CLICK_PX = 4;
  let drag = null;
  let pending = null;

  // On a phone the plans show the whole vehicle; a press shows the place at full size.
  const root = document.documentElement;
  const button = () => document.getElementById("plan-zoom");
  const closeUp = (close) => {
    root.classList.toggle("plans-close", close);
    if (button()) button().textContent = close ? "Whole vehicle" : "Close up";
  };
  const bring = (pan, share) => {
    pan.scrollLeft = share * pan.scrollWidth - pan.clientWidth / 2;
  };
  const isNarrow = () => matchMedia("(max-width: 760px)").matches;
  document.addEventListener("click", (event) => {
    if (event.target.closest("#plan-zoom")) closeUp(!root.classList.contains("plans-close"));
    const plan = event.target.closest(".plan");
    if (!plan || !isNarrow() || root.classList.contains("plans-close")) return;
    const box = plan.getBoundingClientRect();
    closeUp(true);
    bring(plan.parentElement, (event.clientX - box.left) / box.width);
  });
  const atPicked = () => {
    const picked = document.querySelector(".plan .spot-picked, .plan .leg-picked");
    if (!picked) return;
    closeUp(true);
    if (isNarrow()) for (const other of document.querySelectorAll(".plan .spot-picked .spot-hit, .plan .leg-picked")) other.scrollIntoView({ block: "nearest", inline: "center" });
  };
  document.addEventListener("DOMContentLoaded", atPicked);
  document.addEventListener("htmx:afterSwap", () => closeUp(root.classList.contains("plans-close")));

  const place = (svg, x, y) => {
    const at = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM().inverse());
    return at;
  };

  const show = (svg, spot, x, y) => {
    const from = spot.querySelector(".spot-hit");
    const dx = x - Number(from.getAttribute("cx"));
    const dy = y - Number(from.getAttribute("cy"));
    spot.setAttribute("transform", `translate(${dx} ${dy})`);
    const leader = svg.querySelector(`.spot-leader[data-of="${CSS.escape(spot.dataset.point)}"]`);
    if (leader) leader.setAttribute("d", leader.getAttribute("d").replace(/L[^L]*$/, `L${x} ${y}`));
    for (const leg of svg.querySelectorAll(".leg")) {
      const end = leg.dataset.a === spot.dataset.point ? "1" : leg.dataset.b === spot.dataset.point ? "2" : null;
      if (end) {
        for (const line of leg.querySelectorAll("line")) {
          line.setAttribute(`x${end}`, x);
          line.setAttribute(`y${end}`, y);
        }
      }
    }
  };

  const send = (spot, metres) => {
    const form = document.getElementById("mover");
    for (const [name, value] of Object.entries({ point_id: spot.dataset.point, ...metres })) {
      form.elements[name].value = typeof value === "number" ? value.toFixed(3) : value;
    }
    form.requestSubmit();
  };

  const metresAt = (svg, spot, x, y) => {
    const scale = Number(svg.dataset.scale);
    const along = (x - Number(svg.dataset.ox)) / scale;
    const across = (Number(svg.dataset.oy) - y) / scale;
    const plan = svg.dataset.view === "plan";
    return {
      x_m: along,
      y_m: plan ? across : Number(spot.dataset.y),
      z_m: plan ? Number(spot.dataset.z) : Math.max(0, across),
    };
  };

  document.addEventListener("pointerdown", (event) => {
    const spot = event.target.closest(".plan [data-point]");
    if (!spot || event.button !== 0 || document.querySelector("#placer [data-active]")) return;
    const svg = spot.closest("svg");
    drag = { svg, spot, x: event.clientX, y: event.clientY, moved: false };
    spot.setPointerCapture(event.pointerId);
    event.preventDefault();
  });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (Math.hypot(event.clientX - drag.x, event.clientY - drag.y) > CLICK_PX) drag.moved = true;
    if (!drag.moved) return;
    const at = place(drag.svg, event.clientX, event.clientY);
    show(drag.svg, drag.spot, at.x, at.y);
  });

  const finish = (event, keep) => {
    if (!drag) return;
    const { svg, spot, moved } = drag;
    drag = null;
    if (!moved || !keep) return;
    const at = place(svg, event.clientX, event.clientY);
    send(spot, metresAt(svg, spot, at.x, at.y));
  };
  document.addEventListener("pointerup", (event) => {
    const moved = drag && drag.moved;
    finish(event, true);
    if (moved) {
      const stop = (click) => {
        click.preventDefault();
        click.stopPropagation();
      };
      document.addEventListener("click", stop, { capture: true, once: true });
      setTimeout(() => document.removeEventListener("click", stop, { capture: true }), 50);
    }
  });
  document.addEventListener("pointercancel", (event) => finish(event, false));
  // Placing: pick a thing and press its spot, or drag the thing onto a spot.
  const put = (key, place) => {
    const form = document.getElementById("placer");
    form.elements.key.value = key;
    form.elements.place.value = place;
    form.requestSubmit();
  };

  document.addEventListener(
    "click",
    (event) => {
      const form = document.getElementById("placer");
      const spot = event.target.closest && event.target.closest(".plan [data-point]");
      if (!spot || !document.querySelector("#placer [data-active]")) return;
      event.preventDefault();
      event.stopPropagation();
      put(form.elements.key.value, spot.dataset.point);
    },
    true,
  );

  const nearest = (x, y) => {
    let best = null;
    for (const spot of document.querySelectorAll(".plan [data-point]")) {
      const box = spot.querySelector(".spot-hit").getBoundingClientRect();
      const far = Math.hypot(x - (box.left + box.right) / 2, y - (box.top + box.bottom) / 2);
      if (far < 40 && (!best || far < best.far)) best = { far, spot };
    }
    return best && best.spot;
  };

  let carried = null;
  document.addEventListener("pointerdown", (event) => {
    const chip = event.target.closest && event.target.closest(".thing-chip");
    if (!chip || event.button !== 0) return;
    carried = { chip, x: event.clientX, y: event.clientY, moved: false };
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!carried) return;
    if (Math.hypot(event.clientX - carried.x, event.clientY - carried.y) > CLICK_PX) carried.moved = true;
    if (!carried.moved) return;
    carried.chip.classList.add("is-dragged");
    carried.chip.style.transform = `translate(${event.clientX - carried.x}px, ${event.clientY - carried.y}px)`;
  });
  document.addEventListener("pointerup", (event) => {
    if (!carried) return;
    const { chip, moved } = carried;
    carried = null;
    chip.classList.remove("is-dragged");
    chip.style.transform = "";
    if (!moved) {
      chip.click();
      return;
    }
    const spot = nearest(event.clientX, event.clientY);
    if (spot) put(chip.dataset.thing, spot.dataset.point);
  });

  document.addEventListener("dragstart", (event) => {
    if (event.target.closest && event.target.closest(".plan, .thing-chip")) event.preventDefault();
  });

  document.addEventListener("keydown", (event) => {
    const spot = event.target.closest && event.target.closest(".plan [data-point]");
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!spot || !by || event.altKey) return;
    event.preventDefault();
    const svg = spot.closest("svg");
    const plan = svg.dataset.view === "plan";
    spot.dataset.x = Number(spot.dataset.x) + by[0] * STEP_M;
    if (plan) spot.dataset.y = Number(spot.dataset.y) + by[1] * STEP_M;
    else spot.dataset.z = Math.max(0, Number(spot.dataset.z) + by[1] * STEP_M);
    const scale = Number(svg.dataset.scale);
    const across = plan ? Number(spot.dataset.y) : Number(spot.dataset.z);
    show(svg, spot, Number(svg.dataset.ox) + Number(spot.dataset.x) * scale, Number(svg.dataset.oy) - across * scale);
    clearTimeout(pending);
    pending = setTimeout(() => {
      send(spot, { x_m: Number(spot.dataset.x), y_m: Number(spot.dataset.y), z_m: Number(spot.dataset.z) });
    }, 300);
  });
})();
