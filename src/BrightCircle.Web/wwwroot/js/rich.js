// Plain fields of rich text become editors. Without scripts they are what they are.
// The words of the text editor's own buttons.
document.addEventListener("trix-before-initialize", () => Object.assign(Trix.config.lang, { bold: "Bold", italic: "Italic", strike: "Struck through", link: "Link", heading1: "Heading", quote: "Quotation", code: "As typed", bullets: "List", numbers: "Numbered list", outdent: "One level out", indent: "One level in", undo: "Take back", redo: "Do it again", unlink: "Take the link off", url: "Address", urlPlaceholder: "Where the link leads", remove: "Take it out", captionPlaceholder: "Words under it", attachFiles: "Add files" }));
window.brightRich = root => {
  "use strict";
  // A link can lead to a page of the site or to what a letter names, neither of which is an address by itself.
  root.addEventListener("trix-initialize", e => {
    const link = e.target.toolbarElement?.querySelector("input[name=href]"); if (!link) return;
    link.type = "text"; if (document.querySelector("#rich-links")) link.setAttribute("list", "rich-links");
  });
  for (const field of root.querySelectorAll("textarea.js-rich")) {
    const editor = document.createElement("trix-editor"), hidden = document.createElement("input");
    hidden.type = "hidden"; hidden.id = field.id; hidden.name = field.name; hidden.value = field.value;
    editor.setAttribute("input", field.id); editor.setAttribute("aria-label", "Text");
    field.replaceWith(hidden); hidden.after(editor);
  }
};
