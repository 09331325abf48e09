// The lesson editor: rich text in the place of plain fields, saving while typing, dragging blocks. Without scripts every button is a form post.
(() => {
  "use strict";
  const form = document.querySelector("#editor"), saved = document.querySelector("#saved"); if (!form) return;
  const say = (text, bad) => { saved.textContent = text; saved.classList.toggle("bad", !!bad); };

  function rich(root) {
    brightRich(root);
    if (window.Sortable) {
      const blocks = root.querySelector("#blocks") ?? (root.id === "blocks" ? root : null);
      if (blocks) Sortable.create(blocks, { handle: ".grip", draggable: ".block", animation: 120, onEnd: () => { for (const line of blocks.querySelectorAll(".add-here")) line.remove(); act("save"); } });
    }
    // Another kind of question has other fields: the form comes back with them, and with what was typed.
    for (const kind of root.querySelectorAll("[data-q-kind]")) kind.addEventListener("change", () => act("save"));
  }

  // A button of the editor: the form is sent with it, and comes back with what it did.
  function act(value) { const b = document.createElement("button"); b.name = "do"; b.value = value; b.hidden = true; form.append(b); form.requestSubmit(b); b.remove(); }

  let timer, saving = null, again = false, stopped = false;
  const changed = () => { if (stopped) return; say("…"); clearTimeout(timer); timer = setTimeout(save, 1200); };
  function save() {
    if (saving) { again = true; return; }
    saving = send().finally(() => { saving = null; if (again) { again = false; save(); } });
  }
  // What can't be read is marked at its field. Of a field that stands there once a row, the row's number comes after its name.
  function mark(name, why) {
    const row = /^(.*)-(\d+)$/.exec(name), field = form.elements[name] ?? (row && form.querySelectorAll(`[name="${CSS.escape(row[1])}"]`)[row[2]]);
    const at = field instanceof RadioNodeList ? field[0] : field; if (!at || at.type === "hidden") return;
    at.setAttribute("aria-invalid", "true");
    const line = document.createElement("p"); line.className = "wrong"; line.setAttribute("role", "alert"); line.dataset.typed = ""; line.textContent = why;
    (at.closest(".gap, .answer") ?? at).after(line);
  }
  function unmark() { for (const line of form.querySelectorAll("[data-typed]")) line.remove(); for (const f of form.querySelectorAll("[aria-invalid=true]")) f.removeAttribute("aria-invalid"); }
  async function send() {
    try {
      const answer = await fetch(form.dataset.hxPost, { method: "POST", body: new FormData(form), headers: { "X-Autosave": "1" } });
      const facts = await answer.json(); unmark();
      if (answer.ok) {
        document.querySelector("#lesson-version").value = facts.version; say(`saved ${facts.at}`);
        for (const p of form.querySelectorAll("[data-problem]")) p.remove();
        for (const p of facts.problems) { const body = document.querySelector(`#block-${p.block} .block-body`); if (!body) continue; const line = document.createElement("p"); line.className = "todo"; line.dataset.problem = ""; line.textContent = p.text; body.append(line); }
      }
      else if (answer.status === 409) { stopped = true; say(`${facts.overtaken} saved it at ${facts.at}: press Save to see both`, true); }
      else { for (const [name, why] of Object.entries(facts.wrong)) mark(name, why); say(Object.values(facts.wrong)[0], true); }
    }
    catch { say("not saved: the connection is gone. It is tried again.", true); again = true; await new Promise(r => setTimeout(r, 3000)); }
  }

  form.addEventListener("input", changed);
  form.addEventListener("change", changed);
  // While it opens, the editor turns stored text into its own form: that is no change.
  form.addEventListener("trix-change", e => { if (e.target.dataset.ready) changed(); });
  form.addEventListener("trix-initialize", e => { const ed = e.target; setTimeout(() => { ed.dataset.ready = "1"; }, 0); toolbar(ed); });

  // Structure changes go through htmx, so that the form comes back as the server has it now. Nothing is sent while a save is under way: its answer brings the version.
  form.addEventListener("submit", async e => {
    const b = e.submitter, value = b?.name === "do" ? b.value : null;
    clearTimeout(timer); again = false;
    if (saving) { e.preventDefault(); say("…"); await saving; if (value) act(value); else form.requestSubmit(b); return; }
    if (!value || value === "publish" || !window.htmx) { stopped = true; return; }
    e.preventDefault(); say("…");
    const values = new FormData(form); values.set("do", value);
    const data = {}; for (const [k, v] of values) (data[k] ??= []).push(v);
    // What would be typed while it is under way would go with the old form: until it comes back nothing takes keys.
    const part = document.querySelector("#lesson-form"), focus = document.activeElement?.id; part.inert = true;
    saving = htmx.ajax("POST", form.dataset.hxPost, { target: "#lesson-form", swap: "outerHTML", values: data, source: null }).then(() => {
      const note = document.querySelector("[data-saved-note]"); say(note ? note.dataset.savedNote : "not saved", !note);
      stopped = part.inert = false;
      if (focus) document.getElementById(focus)?.focus({ preventScroll: true });
      const block = value.split(":"); if (block[0] === "add") { const all = document.querySelectorAll(".block"); const at = block[2] === "end" ? all[all.length - 1] : document.querySelector(`#block-${block[2]}`)?.nextElementSibling?.nextElementSibling; at?.scrollIntoView({ block: "center" }); at?.querySelector("input:not([type=hidden]), textarea, trix-editor")?.focus(); }
    }).catch(() => say("not saved: the connection is gone. Press Save when it is back.", true)).finally(() => { part.inert = false; saving = null; if (again) { again = false; save(); } });
  });
  document.addEventListener("htmx:afterSwap", e => { if (e.target.id === "lesson-form" || e.target.querySelector?.("#blocks")) rich(document.querySelector("#lesson-form")); });

  // Pictures and tables in text.
  function toolbar(editor) {
    const row = editor.toolbarElement?.querySelector(".trix-button-row"); if (!row || row.querySelector("[data-table]")) return;
    const group = document.createElement("span"); group.className = "trix-button-group";
    group.innerHTML = `<button type="button" class="trix-button" data-table>Table</button><button type="button" class="trix-button" data-picture>Picture</button>`;
    row.append(group);
    keys(editor.toolbarElement, row, editor);
    for (const b of editor.toolbarElement.querySelectorAll("[data-trix-action=attachFiles]")) b.parentElement.hidden = true;
    group.querySelector("[data-table]").addEventListener("click", () => table(editor));
    group.querySelector("[data-picture]").addEventListener("click", () => brightFiles.open("Picture", (id, name, alt) => editor.editor.insertAttachment(new Trix.Attachment({ contentType: "image/webp", file: String(id), url: `/desk/files/${id}/raw?w=960`, alt: alt || "" }))));
  }
  // One stop for the tab key, arrows between the buttons (the toolbar pattern of the ARIA Authoring Practices), and which of them are on.
  function keys(bar, row, editor) {
    bar.setAttribute("role", "toolbar"); bar.setAttribute("aria-label", "Form of the text"); bar.setAttribute("aria-controls", editor.id ||= `${editor.getAttribute("input")}-editor`);
    const buttons = () => [...row.querySelectorAll("button")].filter(b => !b.disabled && b.offsetParent);
    const stop = at => { for (const b of row.querySelectorAll("button")) b.tabIndex = b === at ? 0 : -1; };
    stop(row.querySelector("button"));
    bar.addEventListener("focusin", e => { if (row.contains(e.target)) stop(e.target); });
    row.addEventListener("keydown", e => {
      const all = buttons(), at = all.indexOf(document.activeElement), to = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: all.length - 1 }[e.key];
      if (to === undefined || at < 0) return;
      e.preventDefault(); all[(to + all.length) % all.length].focus();
    });
    const on = () => { for (const b of row.querySelectorAll("[data-trix-attribute]")) b.setAttribute("aria-pressed", b.classList.contains("trix-active")); };
    on(); editor.addEventListener("trix-selection-change", on); editor.addEventListener("trix-change", on);
  }
  function table(editor) {
    const d = document.createElement("dialog"); d.className = "sheet pad picker"; d.setAttribute("aria-label", "Table");
    d.innerHTML = `<h2 class="mb-2">Table</h2><label class="l" for="table-rows">One row a line, cells with | between; the first row is the head</label><textarea class="field mono" id="table-rows" rows="6">First column | Second column\n | </textarea><div class="gap mt-2"><button type="button" class="btn btn-pine" data-ok>Put it in</button><button type="button" class="btn btn-plain" data-close>Close</button></div>`;
    document.body.append(d); d.showModal();
    d.querySelector("[data-ok]").addEventListener("click", () => {
      const esc = s => s.replace(/&/g, "&amp;").replace(/</g, "&lt;");
      const rows = d.querySelector("textarea").value.split("\n").filter(r => r.trim()).map(r => r.replace(/^\||\|$/g, "").split("|").map(c => esc(c.trim())));
      if (rows.length) editor.editor.insertAttachment(new Trix.Attachment({ contentType: "text/html", content: `<table><thead><tr>${rows[0].map(c => `<th>${c}</th>`).join("")}</tr></thead><tbody>${rows.slice(1).map(r => `<tr>${r.map(c => `<td>${c}</td>`).join("")}</tr>`).join("")}</tbody></table>` }));
      d.close();
    });
    d.addEventListener("close", () => d.remove());
  }
  document.addEventListener("trix-attachment-add", async e => {
    const a = e.attachment; if (!a.file) return;
    try { const made = await brightUpload(a.file, share => a.setUploadProgress(Math.round(share * 100))); a.setAttributes({ file: String(made.id), url: `/desk/files/${made.id}/raw?w=960`, alt: made.alt }); changed(); }
    catch (error) { a.remove(); say(error.message, true); }
  });
  document.addEventListener("trix-file-accept", e => { if (!e.file.type.startsWith("image/")) e.preventDefault(); });

  rich(document);
  addEventListener("beforeunload", e => { if (saving || saved.textContent === "…") e.preventDefault(); });
})();
