// Buttons above what somebody writes, for those who don't know the signs: each puts them around, or before, what is marked. What is sent stays plain text, so
// that it is the same without a script.
(() => {
  "use strict";

  // By the browser's own way where there is one, so that it can be taken back by its keys.
  const put = (field, from, to, text, skip = 0, length = 0) => {
    field.focus();
    field.setSelectionRange(from, to);
    if (!document.execCommand("insertText", false, text)) {
      field.setRangeText(text, from, to, "end");
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
    if (length) field.setSelectionRange(from + skip, from + skip + length);
  };

  // Signs around what is marked, or off again; without spaces between them and the words.
  const around = sign => field => {
    const { selectionStart: from, selectionEnd: to, value } = field, marked = value.slice(from, to), words = marked.trim();
    if (words.length > 2 * sign.length && words.startsWith(sign) && words.endsWith(sign))
      return put(field, from, to, words.slice(sign.length, -sign.length));
    if (!words) return put(field, from, to, `${sign}words${sign}`, sign.length, 5);
    const begins = marked.indexOf(words);
    put(field, from, to, marked.slice(0, begins) + sign + words + sign + marked.slice(begins + words.length));
  };

  // A sign before each line that is marked, or off again. A list or a quotation begins after an empty line.
  const before = sign => field => {
    const { value } = field, from = value.lastIndexOf("\n", field.selectionStart - 1) + 1, end = value.indexOf("\n", field.selectionEnd);
    const to = end < 0 ? value.length : end, lines = value.slice(from, to).split("\n");
    if (lines.every(l => l.startsWith(sign))) return put(field, from, to, lines.map(l => l.slice(sign.length)).join("\n"));
    const above = value.slice(0, Math.max(0, from - 1)).split("\n").pop();
    put(field, from, to, (from > 0 && above && !above.startsWith(sign) ? "\n" : "") + lines.map(l => sign + l).join("\n"));
  };

  // What is marked is the words, or the address; what is missing is marked for typing.
  const link = field => {
    const { selectionStart: from, selectionEnd: to, value } = field, marked = value.slice(from, to).trim();
    if (/^https?:\/\/\S+$/.test(marked)) return put(field, from, to, `[words](${marked})`, 1, 5);
    if (!marked) return put(field, from, to, "[words](https://)", 1, 5);
    put(field, from, to, `[${marked}](https://)`, marked.length + 3, 8);
  };

  const tools = [["Bold", "bi-type-bold", around("**"), "b"], ["Italic", "bi-type-italic", around("*"), "i"], ["Link", "bi-link-45deg", link],
    ["List", "bi-list-ul", before("- ")], ["Quotation", "bi-quote", before("> ")]];

  const button = (field, [name, icon, act, key]) => {
    const made = document.createElement("button"), sign = document.createElement("i");
    made.type = "button"; made.className = "icon-btn"; made.title = name; made.setAttribute("aria-label", name);
    sign.className = `bi ${icon}`; sign.setAttribute("aria-hidden", "true");
    made.append(sign);
    made.addEventListener("click", () => act(field));
    if (key) field.addEventListener("keydown", e => {
      if (!(e.ctrlKey || e.metaKey) || e.altKey || e.shiftKey || e.key !== key) return;
      e.preventDefault();
      act(field);
    });
    return made;
  };

  for (const field of document.querySelectorAll("form textarea[name=Body]")) {
    const bar = document.createElement("div");
    bar.className = "write-bar"; bar.setAttribute("role", "group"); bar.setAttribute("aria-label", "How it looks");
    bar.append(...tools.map(t => button(field, t)));
    field.before(bar);
  }
})();
