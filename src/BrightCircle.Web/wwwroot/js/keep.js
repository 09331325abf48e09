// Words are kept while they are typed, so that nothing is lost when somebody goes away; without it a button does.
(() => {
  "use strict";
  for (const form of document.querySelectorAll("form[data-keep]")) {
    const says = form.querySelector("[data-kept]"), names = ["Title", "Body", "Choices", "Answers", "LoadedAt", "__RequestVerificationToken"];
    let timer = 0, way = null, sent = false, again = false;

    const data = () => { const d = new FormData(); for (const n of names) { const f = form.elements.namedItem(n); if (f) d.append(n, f.value); } return d; };
    const keep = async leaves => {
      clearTimeout(timer); timer = 0;
      if (way && !leaves) { again = true; return; }
      way = fetch(form.dataset.keep, { method: "POST", body: data(), keepalive: !!leaves, headers: { "Bright-Script": "1" } });
      try {
        const answer = await way;
        if (sent) return;
        if (answer.status === 204) says.textContent = "Kept, for you only.";
        else says.textContent = answer.status === 422 ? `Not kept. ${await answer.text()}` : "Not kept: the site doesn’t take it just now.";
      } catch { says.textContent = "Not kept: the connection is gone."; }
      finally { way = null; if (again && !sent) { again = false; keep(); } }
    };

    form.addEventListener("input", e => {
      if (!["Title", "Body", "Choices"].includes(e.target.name)) return;
      clearTimeout(timer);
      timer = setTimeout(keep, 1200);
    });
    form.addEventListener("submit", () => { sent = true; clearTimeout(timer); timer = 0; });
    addEventListener("pagehide", () => { if (timer && !sent) keep(true); });
    // Whoever comes back by the browser's own button finds the form as it was.
    addEventListener("pageshow", () => { sent = false; });
  }
})();
