// Passkeys (W3C Web Authentication): a form that has the browser make or show one before it is sent. Without it, the other ways of signing in are there.
(() => {
  "use strict";
  if (!window.isSecureContext || !window.PublicKeyCredential?.parseCreationOptionsFromJSON) return;
  const kinds = {
    make: {
      field: "made", no: "Nothing was made.",
      ask: o => navigator.credentials.create({ publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(o) }),
    },
    show: {
      field: "answer", no: "No passkey was shown.",
      ask: o => navigator.credentials.get({ publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(o) }),
    },
  };
  for (const form of document.querySelectorAll("form[data-passkey]")) {
    const kind = kinds[form.dataset.passkey], said = form.querySelector("[data-passkey-said]"), button = form.querySelector("button");
    form.hidden = false;
    form.addEventListener("submit", async e => {
      e.preventDefault();
      button.disabled = true; said.textContent = "";
      try {
        const data = new FormData(); data.set("__RequestVerificationToken", form.elements.__RequestVerificationToken.value);
        const asked = await fetch(`${location.pathname}?handler=ask`, { method: "POST", body: data });
        if (!asked.ok) { said.textContent = asked.status === 409 ? await asked.text() : "That didn’t work just now. Try again in a minute."; return; }
        form.elements[kind.field].value = JSON.stringify(await kind.ask(await asked.json()));
        form.submit();
      } catch (wrong) {
        said.textContent = wrong.name === "InvalidStateError" ? "This device has one already." : kind.no;
      } finally { button.disabled = false; }
    });
  }
  for (const words of document.querySelectorAll("[data-no-passkey]")) words.hidden = true;
})();
