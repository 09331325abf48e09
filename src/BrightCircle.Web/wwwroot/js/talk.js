// What is said while somebody reads a thread comes to them; without it the page shows it when it is loaded again.
(() => {
  "use strict";
  const live = document.querySelector("#live"), form = document.querySelector("template#post"), posts = document.querySelector("#posts");
  if (!live || !form || !posts || !("EventSource" in window)) return;
  const isLast = live.dataset.page === live.dataset.pages;
  let last = live.dataset.last, source = null, elsewhere = 0;

  const picture = (p, alone) => {
    const link = document.createElement("a"), img = document.createElement("img");
    link.href = p.full; img.src = alone ? p.full : p.small; img.width = p.width; img.height = p.height; img.alt = p.alt || "A picture"; img.loading = "lazy";
    link.append(img); return link;
  };

  const make = p => {
    const el = form.content.firstElementChild.cloneNode(true), face = el.querySelector(".f"), said = el.querySelector(".said");
    el.id = "p" + p.id; el.classList.toggle("under", p.under !== null); el.dataset.under = p.under ?? "";
    el.setAttribute("aria-label", p.name);
    face.className = "f k" + p.colour; face.textContent = p.initials;
    if (p.face) { const img = document.createElement("img"); img.className = "f"; img.src = p.face; img.alt = ""; face.replaceWith(img); }
    const name = el.querySelector(".who b"), team = el.querySelector(".who .tag");
    name.textContent = p.name;
    if (p.card) { const a = document.createElement("a"); a.href = "/people/" + p.card; name.replaceWith(a); a.append(name); }
    for (const words of p.badges.toReversed()) {
      const tag = document.createElement("span");
      tag.className = "tag"; tag.textContent = words; team.after(" ", tag);
    }
    if (!p.team) team.remove();
    // As it is kept: the site has cleaned it.
    said.innerHTML = p.body;
    const files = p.pictures.filter(x => x.file), pictures = p.pictures.filter(x => !x.file);
    for (const x of files) {
      const line = document.createElement("p"), a = document.createElement("a");
      line.className = "small mb-1"; a.href = x.full; a.textContent = x.file; a.download = "";
      line.append(a); said.after(line);
    }
    if (pictures.length) {
      const shown = document.createElement("div"); shown.className = "shown" + (pictures.length === 1 ? " one" : "");
      shown.append(...pictures.map(x => picture(x, pictures.length === 1))); said.after(shown);
    }
    for (const input of el.querySelectorAll("input[name=post]")) input.value = p.id;
    for (const button of el.querySelectorAll("button[name=post]")) button.value = p.id;
    for (const a of el.querySelectorAll("a[href]")) {
      if (a.closest(".shown, .said")) continue;
      a.setAttribute("href", a.getAttribute("href").replace(/([?&](?:answers|quote)=)0/g, "$1" + p.id).replace("/posts/0", "/posts/" + p.id));
      if (a.hasAttribute("aria-label")) a.setAttribute("aria-label", a.getAttribute("aria-label").replace(/^(Answer|Quote|Report what) .*?( wrote)?$/, `$1 ${p.name}$2`));
    }
    return el;
  };

  const put = p => {
    if (document.getElementById("p" + p.id)) return false;
    const above = p.under && document.getElementById("p" + p.under);
    if (p.under ? !above : !isLast) { elsewhere++; return false; }
    const el = make(p);
    if (above) {
      let after = above;
      while (after.nextElementSibling?.classList.contains("under")) after = after.nextElementSibling;
      after.after(el);
    } else posts.append(el);
    // What stands above what is being read doesn't move it; most browsers see to that themselves.
    if (!CSS.supports("overflow-anchor", "auto") && el.getBoundingClientRect().bottom < 0) scrollBy(0, el.offsetHeight);
    return true;
  };

  const came = all => {
    const here = all.filter(put).length;
    if (all.length) last = all.at(-1).id;
    if (here) live.textContent = here === 1 ? "A new answer came." : `${here} new answers came.`;
    if (elsewhere) {
      let line = document.querySelector("#elsewhere");
      if (!line) { line = document.createElement("p"); line.id = "elsewhere"; line.className = "since"; posts.after(line); line.append(document.createElement("a")); }
      line.firstElementChild.href = location.pathname + "?on=1";
      line.firstElementChild.textContent = elsewhere === 1 ? "one more answer, on another page" : `${elsewhere} more answers, on other pages`;
    }
  };

  const open = () => {
    if (source) return;
    source = new EventSource(`${live.dataset.live}?after=${last}`);
    source.addEventListener("posts", e => came(JSON.parse(e.data)));
    source.addEventListener("open", () => { live.dataset.open = "yes"; });
    // Where the space isn't open any more, it is left at that.
    source.addEventListener("error", () => { if (source?.readyState === EventSource.CLOSED) close(); });
  };
  const close = () => { source?.close(); source = null; };
  // A browser lets a site have few lines open: what isn't looked at needs none.
  document.addEventListener("visibilitychange", () => document.hidden ? close() : open());
  addEventListener("pagehide", close);
  if (!document.hidden) open();
})();
