// A part is dragged along the time; its day goes into the field below, which draws the picture anew.
(() => {
  "use strict";
  let drag = null;
  document.addEventListener("pointerdown", e => {
    const dot = e.target.closest?.("[data-part]"); if (!dot) return;
    const svg = dot.ownerSVGElement, scale = svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;
    drag = { dot, from: e.clientX, day: Number(dot.dataset.day), perDay: Number(svg.dataset.perDay) * scale, scale };
    dot.setPointerCapture(e.pointerId); e.preventDefault();
  });
  const dayAt = e => Math.max(0, Math.round(drag.day + (e.clientX - drag.from) / drag.perDay));
  document.addEventListener("pointermove", e => {
    if (!drag) return;
    drag.dot.setAttribute("transform", `translate(${(dayAt(e) - drag.day) * drag.perDay / drag.scale} 0)`);
  });
  document.addEventListener("pointerup", e => {
    if (!drag) return;
    const day = dayAt(e), field = document.getElementById(`day-${drag.dot.dataset.part}`), same = day === drag.day;
    drag = null;
    if (!field || same) return;
    field.value = day; field.dispatchEvent(new Event("change", { bubbles: true }));
  });
})();
