// Has the browser ask its push service for an address (W3C Push API), and sends it along with the form. Where the browser can’t, that is said.
(() => {
  "use strict";
  const form = document.querySelector("form[data-notices]"), said = document.querySelector("[data-notices-said]");
  if (!form) return;
  if (!window.isSecureContext || !("serviceWorker" in navigator) || !("PushManager" in window)) {
    said.textContent = "This browser can’t show news while the site isn’t open. On a phone, put the site on the home screen first.";
    return;
  }
  form.hidden = false;
  const text = bytes => btoa(String.fromCharCode(...new Uint8Array(bytes))).replaceAll("+", "-").replaceAll("/", "_").replaceAll("=", "");
  const bytes = key => Uint8Array.from(atob(key.replaceAll("-", "+").replaceAll("_", "/")), c => c.charCodeAt(0));
  form.addEventListener("submit", async e => {
    if (form.elements.endpoint.value) return;
    e.preventDefault();
    const button = form.querySelector("button");
    button.disabled = true; said.textContent = "Your browser asks whether this site may show notices. Allow it.";
    try {
      if (await Notification.requestPermission() !== "granted") {
        said.textContent = "The browser doesn’t allow it. Allow notices for this site in its settings, and try again.";
        return;
      }
      said.textContent = "One moment …";
      await navigator.serviceWorker.register("/worker.js");
      const ready = await navigator.serviceWorker.ready;
      await (await ready.pushManager.getSubscription())?.unsubscribe();
      const made = await ready.pushManager.subscribe({ userVisibleOnly: true, applicationServerKey: bytes(form.dataset.notices) });
      form.elements.endpoint.value = made.endpoint;
      form.elements.key.value = text(made.getKey("p256dh")); form.elements.secret.value = text(made.getKey("auth"));
      form.submit();
    } catch {
      said.textContent = "The browser couldn’t reach its push service. Try again later.";
    } finally { button.disabled = false; }
  });
})();
