// Puts the rich-text editor in the place of the plain text field; without scripts the field takes HTML.
(() => {
  const field = document.querySelector("textarea.js-plain"); if (!field) return;
  const label = document.querySelector(`label[for="${field.id}"]`); label.removeAttribute("for"); label.id = "body-label";
  const editor = document.createElement("trix-editor");
  editor.setAttribute("input", field.id); editor.setAttribute("aria-labelledby", "body-label");
  const hidden = document.createElement("input"); hidden.type = "hidden"; hidden.id = field.id; hidden.name = field.name; hidden.value = field.value;
  field.replaceWith(hidden); hidden.after(editor);
})();
