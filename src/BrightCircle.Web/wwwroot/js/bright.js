// Small conveniences; every page works without them.
(() => {
  "use strict";
  const on = (type, selector, act) => document.addEventListener(type, e => { const el = e.target.closest?.(selector); if (el) act(el, e); });

  // The light/dark switch, kept in this browser.
  on("click", "[data-scheme-switch]", () => {
    const root = document.documentElement;
    const dark = root.dataset.scheme ? root.dataset.scheme === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
    root.dataset.scheme = dark ? "light" : "dark";
    document.cookie = `scheme=${root.dataset.scheme};path=/;max-age=31536000;samesite=lax`;
  });

  on("click", "[data-copy]", async el => {
    await navigator.clipboard?.writeText(el.dataset.copy);
    const was = el.textContent; el.textContent = "Copied"; setTimeout(() => { el.textContent = was; }, 1500);
  });
  on("click", "[data-print]", () => print());
  // A row of a table is its first link.
  on("click", "tr.pick", (row, e) => { if (!e.target.closest("a, button, input, label")) row.querySelector("a")?.click(); });
  on("change", "[data-submit-on-change] select, [data-submit-on-change] input[type=date]", el => el.form.requestSubmit());

  document.addEventListener("keydown", e => {
    if (e.key === "Escape") { for (const d of document.querySelectorAll("details.menu[open], details.say[open]")) { d.open = false; d.querySelector("summary").focus(); } document.activeElement?.blur?.(); return; }
    if (e.ctrlKey || e.metaKey || e.altKey || e.target.closest("input, textarea, select, trix-editor")) return;
    if (e.key === "/") { const find = document.querySelector("details.find"); if (find) { e.preventDefault(); find.open = true; find.querySelector("input").focus(); } }
    else if (e.key === "?") document.querySelector("#shortcuts")?.showModal();
    else if (e.key === ".") document.querySelector(".margin")?.scrollIntoView({ block: "nearest" });
    else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      const rows = [...document.querySelectorAll("tr.pick")]; if (!rows.length) return;
      const at = rows.findIndex(r => r.contains(document.activeElement));
      const next = rows[Math.min(rows.length - 1, Math.max(0, at + (e.key === "ArrowDown" ? 1 : -1)))];
      next?.querySelector("a")?.focus(); e.preventDefault();
    }
  });
  on("click", "[data-close]", el => el.closest("dialog").close());
  document.addEventListener("click", e => { for (const d of document.querySelectorAll("details.menu[open], details.say[open]")) if (!d.contains(e.target)) d.open = false; });

  // An outline beside the text on wide screens is folded away above it on small ones.
  if (matchMedia("(max-width: 760px)").matches) for (const d of document.querySelectorAll("details[data-open-wide]")) d.open = false;

  // On a small screen the rail is behind a button, and the months begin at this one.
  on("click", "[data-rail]", (el, e) => { e.preventDefault(); document.querySelector("#rail")?.classList.toggle("open"); });
  on("click", ".rail-close", (el, e) => { e.preventDefault(); document.querySelector("#rail")?.classList.remove("open"); });
  const months = document.querySelector(".ribbon .months"), here = months?.querySelector(".m.now");
  if (here && months.scrollWidth > months.clientWidth) months.scrollLeft = here.offsetLeft - (months.clientWidth - here.offsetWidth) / 2;

  // Leaving a form with something typed in it asks; sending it doesn't.
  let typed = null;
  on("input", ".desk form.form", form => { if ((form.getAttribute("method") || "").toLowerCase() === "post") typed = form; });
  document.addEventListener("submit", () => { typed = null; });
  addEventListener("beforeunload", e => { if (typed && document.contains(typed)) e.preventDefault(); });

  // What opens at a moment counts down to it, and is looked at again then.
  for (const el of document.querySelectorAll("[data-until]")) {
    const until = Number(el.dataset.until), ahead = Number(el.dataset.now) - Date.now(), words = el.textContent;
    const tick = () => {
      const left = Math.round((until - Date.now() - ahead) / 1000);
      if (left <= 0) { clearInterval(timer); location.reload(); return; }
      if (left > 86400) { el.textContent = words; return; }
      const h = Math.floor(left / 3600), m = Math.floor(left % 3600 / 60), s = left % 60;
      el.textContent = `in ${h ? h + " h " : ""}${h || m ? m + " min " : ""}${h ? "" : s + " s"}`.trim();
    };
    const timer = setInterval(tick, 1000); tick();
  }

  // Where somebody is, as their machine says, stands chosen until they choose themselves.
  for (const zones of document.querySelectorAll("select[data-own-zone]")) {
    const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
    if (!zones.value && [...zones.options].some(o => o.value === here)) zones.value = here;
  }

  // What a member opened can be read without a network. Whoever is signed out leaves nothing behind in this browser.
  const reader = document.body.dataset.reader;
  if (reader === "member" && "serviceWorker" in navigator) navigator.serviceWorker.register("/worker.js").catch(() => { });
  else if (reader === "nobody" && "caches" in window)
    caches.keys().then(all => all.filter(k => k.startsWith("bright-")).forEach(k => caches.delete(k))).catch(() => { });
  // On the sign on the phone: whether something waits to be opened.
  const fresh = document.querySelector("[data-fresh]");
  if (fresh && "setAppBadge" in navigator) (fresh.dataset.fresh === "0" ? navigator.clearAppBadge() : navigator.setAppBadge()).catch(() => { });
  // The mark that a form came from this site, for what scripts send.
  window.bright = { token: () => document.querySelector("input[name=__RequestVerificationToken]")?.value ?? "" };
  document.addEventListener("click", e => { if (e.target.closest("[data-close-drawer]")) { const d = document.querySelector("#drawer"); if (d) { d.innerHTML = ""; e.preventDefault(); } } });
  document.addEventListener("keydown", e => { if (e.key === "Escape") { const d = document.querySelector("#drawer"); if (d) d.innerHTML = ""; } });
})();
