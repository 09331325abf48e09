// The letter editor: rich text in the place of a plain field, and beside it the letter as a reader gets it, drawn anew while it is written.
(() => {
  "use strict";
  const form = document.querySelector("form#editor"); if (!form) return;
  brightRich(form);
  const frame = form.querySelector("iframe[name=letter-frame]");
  let timer, ready = false;
  // What is typed goes to the frame by a form of its own, so that the editor's own stays as it is. The frame has its own rules: a letter brings its styles.
  function draw() {
    const post = document.createElement("form"); post.method = "post"; post.action = new URL(frame.getAttribute("src"), location.href).pathname; post.target = frame.name; post.hidden = true;
    for (const [name, value] of new FormData(form)) { const field = document.createElement("input"); field.type = "hidden"; field.name = name; field.value = value; post.append(field); }
    document.body.append(post); HTMLFormElement.prototype.submit.call(post); post.remove();
  }
  const later = () => { clearTimeout(timer); timer = setTimeout(draw, 700); };
  form.addEventListener("input", later);
  form.addEventListener("change", e => { if (e.target.name === "look") frame.dataset.look = e.target.value; later(); });
  form.addEventListener("trix-initialize", () => setTimeout(() => { ready = true; }, 0));
  form.addEventListener("trix-change", () => { if (ready) { later(); form.dispatchEvent(new Event("change", { bubbles: true })); } });
  // A field is put in where somebody wrote last, and a link into the letter, by its name in the list.
  let last = null;
  const places = "trix-editor, input[name=Subject], input[name=OtherSubject], input[name=Preheader]";
  form.addEventListener("focusin", e => { const at = e.target.closest(places); if (at) last = at; });
  for (const name of form.querySelectorAll("code[data-put]")) {
    const put = document.createElement("button"); put.type = "button"; put.className = "btn-link-like";
    name.replaceWith(put); put.append(name);
    put.addEventListener("click", () => {
      const text = name.textContent.trim(), editor = form.querySelector("trix-editor"), link = text[0] === "#";
      if (!link && last && last !== editor) {
        last.setRangeText(text, last.selectionStart, last.selectionEnd, "end");
        last.dispatchEvent(new Event("input", { bubbles: true })); last.focus();
        return;
      }
      if (link) {
        const a = document.createElement("a"); a.setAttribute("href", text); a.textContent = put.nextElementSibling.textContent;
        editor.editor.insertHTML(a.outerHTML);
      } else editor.editor.insertString(text);
      editor.focus();
    });
  }
  // Pictures come with pieces: a letter leads there.
  document.addEventListener("trix-file-accept", e => e.preventDefault());
})();
