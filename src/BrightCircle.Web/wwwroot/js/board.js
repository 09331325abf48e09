// Dragging on the board and in an outline. Each move also has a form or a button.
(() => {
  "use strict";
  if (!window.Sortable) return;
  const post = (url, values) => { const data = new FormData(); for (const [k, v] of Object.entries(values)) if (v != null) data.set(k, v); data.set("__RequestVerificationToken", bright.token()); return fetch(url, { method: "POST", body: data, headers: { "X-Drag": "1" } }); };
  const tell = text => { const note = document.createElement("div"); note.className = "note bad-note toast-note"; note.setAttribute("role", "alert"); note.textContent = text; document.body.append(note); setTimeout(() => note.remove(), 6000); };

  const board = document.querySelector("[data-board]");
  if (board) for (const cell of document.querySelectorAll("[data-cell]")) Sortable.create(cell, {
    group: "board", draggable: ".card-p:not([data-fixed='1'])", animation: 120, sort: false,
    onMove: e => !e.to.dataset.past,
    onEnd: async e => {
      if (e.from === e.to) return;
      const answer = await post(board.dataset.moveUrl, { card: e.item.dataset.card, to: e.to.dataset.month === e.from.dataset.month ? "keep" : e.to.dataset.month, shelf: e.to.dataset.shelf });
      if (answer.ok) location.reload();
      else { e.from.insertBefore(e.item, e.from.children[e.oldIndex] ?? null); tell(await answer.json().catch(() => "That didn’t work.")); }
    },
  });

  // A long board opens with the month that is next in sight.
  const lit = board?.querySelector("thead .lit-col"), before = lit?.previousElementSibling, shelves = board?.querySelector(".shelfcol");
  if (before && before !== shelves && board.scrollWidth > board.clientWidth) board.scrollLeft = before.offsetLeft - shelves.offsetWidth;

  const outline = document.querySelector("[data-outline]");
  if (outline) {
    const order = () => [...outline.querySelectorAll("[data-module]")].map(m => `m${m.dataset.module}:${[...m.querySelectorAll("[data-lesson]")].map(l => l.dataset.lesson).join(",")}`).join(";");
    const send = async () => { const answer = await post(outline.dataset.orderUrl, { order: order() }); if (!answer.ok) { tell(await answer.json().catch(() => "That didn’t work.")); setTimeout(() => location.reload(), 1500); } };
    for (const list of outline.querySelectorAll("[data-lessons]")) Sortable.create(list, { group: "lessons", handle: ".grip", draggable: "[data-lesson]", animation: 120, onEnd: send });
    Sortable.create(outline, { handle: ".module-head > .grip", draggable: "[data-module]:not([data-module='0'])", animation: 120, onEnd: send });
  }
})();
