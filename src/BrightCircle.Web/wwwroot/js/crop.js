// Cutting and turning a cover in the browser; the server makes the cut from the picture itself.
(() => {
  "use strict";
  const root = document.querySelector("[data-cover]"); if (!root || !window.Cropper) return;
  const box = root.querySelector("[data-cropper]"), acts = root.querySelector("[data-crop-acts]"), begin = root.querySelector("[data-crop-begin]"), now = root.querySelector("[data-cover-now]"), select = root.querySelector("select[name=Cover]");
  const field = name => root.querySelector(`input[name=${name}]`);
  let turn = 0, cropper;
  if (begin) { begin.hidden = false; begin.addEventListener("click", () => open(select.value)); }
  select?.addEventListener("change", () => { if (now) now.hidden = true; drop(); if (select.value) open(select.value); });
  function drop() { box.hidden = acts.hidden = true; box.replaceChildren(); cropper = null; turn = 0; for (const n of ["CropX", "CropY", "CropWidth", "CropHeight"]) field(n).value = ""; field("CropTurn").value = "0"; }
  function open(id) {
    drop(); box.hidden = acts.hidden = false; if (begin) begin.hidden = true; if (now) now.hidden = true;
    const img = new Image(); img.src = `/desk/files/${id}/raw?w=960`; img.alt = "The picture the cover is cut from"; box.append(img);
    cropper = new Cropper.default(img, { container: box, template: `<cropper-canvas background><cropper-image rotatable scalable translatable></cropper-image><cropper-shade hidden></cropper-shade><cropper-selection initial-coverage="0.9" aspect-ratio="2.5" movable resizable><cropper-grid role="grid" covered></cropper-grid><cropper-handle action="move" theme-color="rgba(255,255,255,0.2)"></cropper-handle><cropper-handle action="n-resize"></cropper-handle><cropper-handle action="e-resize"></cropper-handle><cropper-handle action="s-resize"></cropper-handle><cropper-handle action="w-resize"></cropper-handle></cropper-selection></cropper-canvas>` });
    const image = cropper.getCropperImage(), selection = cropper.getCropperSelection();
    image.$ready(() => { image.$center("contain"); note(); });
    selection.addEventListener("change", () => setTimeout(note)); image.addEventListener("transform", () => setTimeout(note));
  }
  // The chosen part as shares of the picture's sides, after turning.
  function note() {
    if (!cropper) return;
    const i = cropper.getCropperImage().getBoundingClientRect(), s = cropper.getCropperSelection().getBoundingClientRect();
    if (!i.width || !s.width) return;
    field("CropX").value = ((s.left - i.left) / i.width).toFixed(4); field("CropY").value = ((s.top - i.top) / i.height).toFixed(4);
    field("CropWidth").value = (s.width / i.width).toFixed(4); field("CropHeight").value = (s.height / i.height).toFixed(4); field("CropTurn").value = turn;
  }
  root.querySelector("[data-crop-turn]").addEventListener("click", () => { turn = (turn + 90) % 360; const image = cropper.getCropperImage(); image.$rotate("90deg"); image.$center("contain"); note(); });
  root.querySelector("[data-crop-drop]").addEventListener("click", drop);
})();
