// What was kept of what somebody opened, by title.
(async () => {
  "use strict";
  const list = document.querySelector("[data-kept]");
  if (!list || !("caches" in window)) return;
  const pages = await caches.open("bright-pages");
  for (const request of (await pages.keys()).reverse()) {
    const text = await (await pages.match(request)).text();
    const title = new DOMParser().parseFromString(text, "text/html").title.split(" · ")[0];
    const row = document.createElement("a");
    row.className = "row-l"; row.href = new URL(request.url).pathname; row.textContent = title;
    list.append(row);
  }
  if (!list.children.length) document.querySelector("[data-none]").hidden = false;
  document.querySelector("[data-again]")?.addEventListener("click", () => location.reload());
})();
