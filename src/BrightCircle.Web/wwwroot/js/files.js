// Files: upload in parts with progress, drag and drop, and a picker in the place of plain lists.
(() => {
  "use strict";
  const PART = 8 * 1024 * 1024;
  const headers = () => ({ RequestVerificationToken: bright.token() });
  const pause = ms => new Promise(done => setTimeout(done, ms));

  // Sends one file part after the other; after a break it asks how far it came and goes on from there.
  async function upload(file, progress) {
    const begun = await fetch(`/desk/uploads?name=${encodeURIComponent(file.name)}&bytes=${file.size}`, { method: "POST", headers: headers() });
    if (!begun.ok) throw new Error(JSON.parse(await begun.text()));
    const { id } = await begun.json();
    let sent = 0, failures = 0;
    while (sent < file.size) {
      try {
        const answer = await fetch(`/desk/uploads/${id}?offset=${sent}`, { method: "PUT", headers: { ...headers(), "Content-Type": "application/octet-stream" }, body: file.slice(sent, sent + PART) });
        if (answer.status === 400) throw Object.assign(new Error(JSON.parse(await answer.text())), { final: true });
        if (!answer.ok) throw new Error("The connection broke.");
        sent = (await answer.json()).received; failures = 0; progress(sent / file.size);
      } catch (e) {
        if (e.final || ++failures > 8) throw e;
        await pause(500 * failures);
        const where = await fetch(`/desk/uploads/${id}`).then(r => r.ok ? r.json() : null).catch(() => null);
        if (where) sent = where.received;
      }
    }
    const done = await fetch(`/desk/uploads/${id}/finish`, { method: "POST", headers: headers() });
    if (!done.ok) throw new Error(JSON.parse(await done.text()));
    return done.json();
  }

  async function uploadMany(files, box, each) {
    for (const file of files) {
      const row = document.createElement("div"); row.className = "upload-row";
      const name = document.createElement("span"), bar = document.createElement("progress"); bar.max = 1; bar.value = 0; bar.className = "progress-line"; bar.setAttribute("aria-label", file.name);
      name.textContent = file.name; row.append(name, bar); box.append(row);
      try { const made = await upload(file, share => { bar.value = share; }); bar.value = 1; row.classList.add("done"); each?.(made); }
      catch (e) { row.classList.add("wrong"); name.textContent = e.message || `${file.name} didn’t go up.`; bar.remove(); }
    }
  }
  window.brightUpload = upload;

  // A zone takes what is dropped on it, and what is chosen in its field.
  for (const zone of document.querySelectorAll("[data-drop]")) {
    const box = zone.querySelector("[data-progress]"), field = zone.querySelector("input[type=file]");
    for (const b of zone.querySelectorAll("[data-hide-with-script]")) b.hidden = true;
    const take = async files => { await uploadMany(files, box); if (!box.querySelector(".wrong")) location.reload(); };
    zone.addEventListener("dragover", e => { e.preventDefault(); zone.classList.add("over"); });
    zone.addEventListener("dragleave", () => zone.classList.remove("over"));
    zone.addEventListener("drop", e => { e.preventDefault(); zone.classList.remove("over"); take(e.dataTransfer.files); });
    field.addEventListener("change", () => take(field.files));
  }

  // The picker: a dialog with search, the newest files, and room to drop another.
  let dialog, chosen;
  function open(kind, done) {
    chosen = done;
    if (!dialog) {
      dialog = document.createElement("dialog"); dialog.className = "sheet pad picker"; dialog.setAttribute("aria-label", "Choose a file");
      dialog.innerHTML = `<div class="between mb-2"><h2>Choose a file</h2><button type="button" class="icon-btn" data-close aria-label="Close"><i class="bi bi-x-lg" aria-hidden="true"></i></button></div>
        <div class="drop-zone small mb-2" data-zone><i class="bi bi-cloud-arrow-up" aria-hidden="true"></i> Drop one here or <label class="btn-link-like">choose from this machine<input type="file" class="visually-hidden" multiple></label><div data-progress role="status"></div></div>
        <input class="field mb-2" type="search" placeholder="Search" aria-label="Search files"><div data-list></div>`;
      document.body.append(dialog);
      const zone = dialog.querySelector("[data-zone]"), box = zone.querySelector("[data-progress]");
      const take = files => uploadMany(files, box, made => pick(made.id, made.name, made.alt, made.kind));
      zone.addEventListener("dragover", e => { e.preventDefault(); zone.classList.add("over"); });
      zone.addEventListener("dragleave", () => zone.classList.remove("over"));
      zone.addEventListener("drop", e => { e.preventDefault(); zone.classList.remove("over"); take(e.dataTransfer.files); });
      zone.querySelector("input").addEventListener("change", e => take(e.target.files));
      let timer; dialog.querySelector("input[type=search]").addEventListener("input", e => { clearTimeout(timer); timer = setTimeout(() => list(e.target.value), 200); });
      dialog.addEventListener("click", e => { const b = e.target.closest("[data-pick]"); if (b) pick(b.dataset.pick, b.dataset.name, b.dataset.alt, b.dataset.kind); });
    }
    dialog.querySelector("[data-progress]").replaceChildren(); dialog.dataset.kind = kind || "";
    list(""); dialog.showModal();
  }
  async function list(q) { dialog.querySelector("[data-list]").innerHTML = await fetch(`/desk/files?handler=Pick&kind=${dialog.dataset.kind}&q=${encodeURIComponent(q)}`).then(r => r.text()); }
  function pick(id, name, alt, kind) { if (dialog.dataset.kind && !dialog.dataset.kind.split(",").includes(kind)) { const note = dialog.querySelector("[data-progress]"); note.textContent = "That kind of file doesn’t fit here."; return; } dialog.close(); chosen(id, name, alt, kind); }

  function enhance(root) {
    for (const select of root.querySelectorAll("select.js-file")) {
      select.classList.remove("js-file"); select.hidden = true;
      const kind = select.closest("[data-kind]")?.dataset.kind, box = document.createElement("div"); box.className = "file-chosen";
      const show = () => {
        const o = select.selectedOptions[0]; box.replaceChildren();
        if (o?.value) {
          if (o.dataset.kind === "Picture") { const img = document.createElement("img"); img.src = `/desk/files/${o.value}/raw?w=480`; img.alt = ""; box.append(img); }
          const name = document.createElement("span"); name.className = "grow"; name.textContent = o.textContent; box.append(name);
        }
        const choose = document.createElement("button"); choose.type = "button"; choose.className = "btn btn-plain btn-sm"; choose.textContent = o?.value ? "Another" : `Choose ${select.getAttribute("aria-label").replace(/^./, c => c.toLowerCase())}`;
        choose.addEventListener("click", () => open(kind, (id, label, alt, fileKind) => {
          let option = [...select.options].find(x => x.value === String(id));
          if (!option) { option = new Option(label, id); option.dataset.alt = alt ?? ""; option.dataset.kind = fileKind; select.append(option); }
          select.value = id; show(); select.dispatchEvent(new Event("change", { bubbles: true }));
          const row = select.closest(".block"), words = select.closest(".form.tight")?.querySelector("input[name$='-alt']"); if (words && !words.value) words.value = alt ?? "";
          if (row && select.dataset.new !== undefined) row.dispatchEvent(new CustomEvent("bright-added", { bubbles: true }));
        }));
        box.append(choose);
        if (o?.value) { const none = document.createElement("button"); none.type = "button"; none.className = "icon-btn"; none.innerHTML = "<i class='bi bi-x-lg' aria-hidden='true'></i>"; none.setAttribute("aria-label", "Take it out"); none.addEventListener("click", () => { select.value = ""; show(); select.dispatchEvent(new Event("change", { bubbles: true })); }); box.append(none); }
      };
      show(); select.after(box);
    }
  }
  enhance(document);
  document.addEventListener("htmx:afterSwap", e => enhance(e.target));
  window.brightFiles = { enhance, open };
})();
