// Buttons above what somebody writes, for those who don't know the signs: each puts them around, or before, what is marked. What is sent stays plain text, so
// that it is the same without a script.
(() => {
  "use strict";
  const around = (field, sign) => {
    const { selectionStart: from, selectionEnd: to, value } = field, marked = value.slice(from, to), trimmed = marked.trim();
    if (trimmed.startsWith(sign) && trimmed.endsWith(sign) && trimmed.length > 2 * sign.length) return put(field, from, to, trimmed.slice(sign.length, -sign.length), 0);
    const words = trimmed || "words", before = marked.slice(0, marked.length - marked.trimStart().length), after = trimmed ? marked.slice(before.length + trimmed.length) : "";
    put(field, from, to, before + sign + words + sign + after, trimmed ? 0 : sign.length, trimmed ? 0 : words.length);
  };
  const before = (field, sign) => {
    const { value } = field, from = value.lastIndexOf("\n", field.selectionStart - 1) + 1, end = value.indexOf("\n", field.selectionEnd), to = end < 0 ? value.length : end;
    const lines = value.slice(from, to).split("\n"), has = lines.every(l => l.startsWith(sign));
    // A list or a quotation begins after an empty line.
    const gap = !has && from > 0 && value[from - 2] !== "\n" && !value.slice(0, from - 1).split("\n").pop().startsWith(sign) ? "\n" : "";
    put(field, from, to, gap + lines.map(l => has ? l.slice(sign.length) : sign + l).join("\n"), 0);
  };
  const link = field => {
    const { selectionStart: from, selectionEnd: to, value } = field, marked = value.slice(from, to).trim(), isAddress = /^https?:\/\/\S+$/.test(marked);
    const words = isAddress ? "words" : marked || "words", address = isAddress ? marked : "https://";
    put(field, from, to, `[${words}](${address})`, isAddress || !marked ? 1 : words.length + 3, isAddress || !marked ? words.length : address.length);
  };
  // By the browser's own way where there is one, so that it can be taken back by its keys.
  function put(field, from, to, text, skip, length = 0) {
    field.focus(); field.setSelectionRange(from, to);
    if (!document.execCommand("insertText", false, text)) { field.setRangeText(text, from, to, "end"); field.dispatchEvent(new Event("input", { bubbles: true })); }
    if (length) field.setSelectionRange(from + skip, from + skip + length);
  }
  const tools = [["Bold", "bi-type-bold", f => around(f, "**"), "b"], ["Italic", "bi-type-italic", f => around(f, "*"), "i"], ["Link", "bi-link-45deg", link],
    ["List", "bi-list-ul", f => before(f, "- ")], ["Quotation", "bi-quote", f => before(f, "> ")]];
  for (const field of document.querySelectorAll("form textarea[name=Body]")) {
    const bar = document.createElement("div");
    bar.className = "write-bar"; bar.setAttribute("role", "group"); bar.setAttribute("aria-label", "How it looks");
    for (const [name, icon, act, key] of tools) {
      const button = document.createElement("button"), sign = document.createElement("i");
      button.type = "button"; button.className = "icon-btn"; button.title = name; button.setAttribute("aria-label", name);
      sign.className = `bi ${icon}`; sign.setAttribute("aria-hidden", "true"); button.append(sign);
      button.addEventListener("click", () => act(field));
      bar.append(button);
      if (key) field.addEventListener("keydown", e => { if ((e.ctrlKey || e.metaKey) && !e.altKey && !e.shiftKey && e.key === key) { e.preventDefault(); act(field); } });
    }
    field.before(bar);
  }
})();
