// What a lesson does with scripts: recordings that go on where they stopped, follow-alongs, timers, answers kept while typing.
(() => {
  "use strict";
  const lesson = document.querySelector("[data-lesson]"); if (!lesson) return;
  const path = `/lessons/${lesson.dataset.lesson}`;
  const send = (handler, values, keep) => { const data = new FormData(); for (const [k, v] of Object.entries(values)) data.set(k, v); data.set("__RequestVerificationToken", bright.token()); return fetch(`${path}?handler=${handler}`, { method: "POST", body: data, keepalive: !!keep, headers: { "X-Autosave": "1" } }); };
  const clock = s => { s = Math.max(0, Math.round(s)); return s >= 3600 ? `${Math.floor(s / 3600)}:${String(Math.floor(s / 60) % 60).padStart(2, "0")}:${String(s % 60).padStart(2, "0")}` : `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`; };
  const member = !!document.querySelector(".own-note");

  // Recordings: resume, speed, transcript that follows, how far it was played.
  for (const media of document.querySelectorAll("[data-play]")) {
    const box = media.closest(".recording"), block = media.closest("[data-block]").dataset.block, tools = box.querySelector("[data-play-tools]");
    tools.hidden = false;
    tools.querySelector("[data-speed]").addEventListener("change", e => { media.playbackRate = Number(e.target.value); });
    const resume = Number(media.dataset.resume || 0);
    media.addEventListener("loadedmetadata", () => { if (resume > 5 && resume < media.duration - 5) { media.currentTime = resume; box.querySelector("[data-resumed]").textContent = `goes on at ${clock(resume)}`; } }, { once: true });
    const seen = new Set(); let last = 0;
    const report = keep => { if (!member || !media.duration) return; const share = Math.min(1, seen.size / Math.max(1, Math.floor(media.duration))); send("Played", { block, position: Math.floor(media.currentTime), share: share.toFixed(4) }, keep); last = Date.now(); };
    media.addEventListener("timeupdate", () => { if (!media.paused) seen.add(Math.floor(media.currentTime)); if (Date.now() - last > 10000 && !media.paused) report(); follow(media.currentTime); });
    media.addEventListener("pause", () => report()); media.addEventListener("ended", () => report());
    addEventListener("pagehide", () => report(true));
    const words = box.querySelector("[data-words]");
    const lines = words ? [...words.querySelectorAll("[data-second]")].filter(l => l.dataset.second) : [];
    function follow(at) { let now = null; for (const l of lines) if (Number(l.dataset.second) <= at + .3) now = l; for (const l of lines) l.classList.toggle("now", l === now); if (now && words.matches(":not(:hover)")) words.scrollTop = now.offsetTop - words.offsetTop - words.clientHeight / 3; }
    words?.addEventListener("click", e => { const b = e.target.closest("[data-go]"); if (b) { media.currentTime = Number(b.dataset.go); media.play(); } });
  }
  for (const find of document.querySelectorAll("[data-words-find]")) { find.hidden = false; find.addEventListener("input", () => { const q = find.value.trim().toLowerCase(); for (const l of find.parentElement.querySelectorAll("[data-words] p")) l.hidden = q && !l.textContent.toLowerCase().includes(q); }); }

  // A video elsewhere: nothing is loaded from there before it is pressed.
  document.addEventListener("click", e => {
    const link = e.target.closest("[data-embed^='https:']"); if (!link || e.ctrlKey || e.metaKey || e.shiftKey) return;
    e.preventDefault();
    const url = link.dataset.embed, direct = /\.(mp4|webm|ogv|mp3|m4a|ogg)(\?|$)/i.test(url);
    const frame = document.createElement(direct ? "video" : "iframe"); frame.src = url; frame.className = "embed"; frame.title = link.textContent.trim();
    if (direct) { frame.controls = true; frame.autoplay = true; } else { frame.allow = "autoplay; fullscreen; picture-in-picture"; frame.setAttribute("sandbox", "allow-scripts allow-same-origin allow-popups allow-presentation"); frame.referrerPolicy = "strict-origin"; }
    const out = document.createElement("p"); out.className = "small soft"; const away = document.createElement("a"); away.href = url; away.target = "_blank"; away.rel = "noopener noreferrer"; away.textContent = `open it at ${new URL(url).host} instead`; out.append(away);
    link.replaceWith(frame, out);
  });

  // The screen stays awake while a step runs.
  let awake; const wake = async on => { try { if (on) awake ??= await navigator.wakeLock?.request("screen"); else { await awake?.release(); awake = null; } } catch { awake = null; } };
  document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible" && awake) { awake = null; wake(true); } });
  let audio; const beep = (high) => { try { audio ??= new AudioContext(); const o = audio.createOscillator(), g = audio.createGain(); o.frequency.value = high ? 880 : 520; g.gain.setValueAtTime(.15, audio.currentTime); g.gain.exponentialRampToValueAtTime(.001, audio.currentTime + .25); o.connect(g).connect(audio.destination); o.start(); o.stop(audio.currentTime + .26); } catch { /* without sound then */ } };

  // Timers.
  for (const t of document.querySelectorAll("[data-timer]")) {
    const from = Number(t.dataset.timer), face = t.querySelector("[data-clock]"), start = t.querySelector("[data-start]"), reset = t.querySelector("[data-reset]");
    t.querySelector("[data-acts]").hidden = false;
    let spent = 0, since = 0, tick;
    const now = () => spent + (since ? (performance.now() - since) / 1000 : 0);
    const draw = () => { const left = from - now(); face.textContent = clock(from ? left : now()); if (from && left <= 0) { stop(); face.textContent = "0:00"; beep(true); t.classList.add("over"); } };
    const stop = () => { spent = now(); since = 0; clearInterval(tick); start.textContent = "Go on"; wake(false); };
    start.addEventListener("click", () => { if (since) stop(); else { if (from && now() >= from) { spent = 0; t.classList.remove("over"); } since = performance.now(); tick = setInterval(draw, 200); start.textContent = "Pause"; wake(true); } });
    reset.addEventListener("click", () => { stop(); spent = 0; t.classList.remove("over"); start.textContent = "Start"; face.textContent = clock(from); });
  }

  // Follow-alongs. All it needs is in the page, so that it goes on without a network.
  for (const f of document.querySelectorAll("[data-follow]")) {
    const run = JSON.parse(f.dataset.follow), still = matchMedia("(prefers-reduced-motion: reduce)").matches, $ = n => f.querySelector(`[data-${n}]`), steps = [...f.querySelectorAll(".steps li")], block = f.closest("[data-block]").dataset.block;
    let at = -1, left = 0, since = 0, tick, paused = false;
    $("acts").hidden = false;
    for (const s of run.steps) if (s.picture) if (!s.clip) new Image().src = s.picture;
    const words = { LeadIn: "Get ready", Timed: "timed", Counted: "counted", Rest: "Rest" };
    const show = () => {
      const m = run.moments[at], s = run.steps[m.step], resting = m.kind === "Rest", next = run.moments.slice(at + 1).find(x => x.kind === "Timed" || x.kind === "Counted");
      $("where").textContent = `Step ${m.step + 1} of ${run.steps.length}${run.rounds > 1 ? `, round ${m.round} of ${run.rounds}` : ""} · ${words[m.kind].toLowerCase()}`;
      $("title").textContent = resting ? "Rest" : m.kind === "Counted" ? `${s.times} × ${s.title}` : s.title;
      $("note").textContent = resting ? next ? `Next: ${run.steps[next.step].title}` : "" : m.kind === "LeadIn" ? "Get ready" : s.note;
      $("of").textContent = m.kind === "Counted" ? "times" : `of ${clock(m.seconds)}`;
      const pic = $("pic"), clip = $("clip"), shown = s.picture && !resting;
      pic.hidden = !shown || s.clip; clip.hidden = !shown || !s.clip;
      if (shown && !s.clip && pic.src !== s.picture) pic.src = s.picture;
      if (shown && s.clip) { if (clip.getAttribute("src") !== s.picture) clip.src = s.picture; if (still) clip.controls = true; else clip.play().catch(() => { }); } else clip.pause?.();
      $("next").textContent = at === run.moments.length - 1 ? "Finish" : "Next ▸"; $("pause").hidden = m.kind === "Counted"; $("back").hidden = at === 0;
      steps.forEach((li, i) => { li.classList.toggle("now", i === m.step && !resting); });
      f.dataset.kind = m.kind; draw();
    };
    const remaining = () => left - (since && !paused ? (performance.now() - since) / 1000 : 0);
    const draw = () => {
      const m = run.moments[at]; if (!m) return;
      if (m.kind === "Counted") { $("clock").textContent = `${run.steps[m.step].times} ×`; $("arc").style.strokeDashoffset = 0; return; }
      const r = remaining(); $("clock").textContent = clock(Math.ceil(r)); $("arc").style.strokeDashoffset = 100 - 100 * Math.max(0, r) / m.seconds;
      if (run.sounds && r <= 3.05 && r > 0 && Math.ceil(r) !== draw.last && !paused) { draw.last = Math.ceil(r); beep(false); }
      if (r <= 0) { if (run.sounds) beep(true); go(at + 1); }
    };
    const go = to => {
      if (to < 0) return;
      if (to >= run.moments.length) return finish();
      at = to; left = run.moments[at].seconds; since = performance.now(); paused = false; draw.last = null; $("pause").textContent = "Pause"; show();
      clearInterval(tick); tick = setInterval(draw, 200); wake(true);
    };
    const finish = async () => {
      clearInterval(tick); at = -1; wake(false); f.dataset.kind = "Done";
      $("where").textContent = "Finished"; $("title").textContent = "Well done"; $("clock").textContent = "✓"; $("of").textContent = ""; $("arc").style.strokeDashoffset = 0; $("pic").hidden = $("clip").hidden = true; $("clip").pause?.();
      $("next").textContent = "Once more"; $("pause").hidden = $("back").hidden = true; steps.forEach(li => li.classList.remove("now"));
      $("note").textContent = "";
      if (f.dataset.finishedUrl) try { const answer = await send("Played", { block, position: 0, share: 1, finished: true }); const { times } = await answer.json(); $("note").textContent = `That was the ${times === 1 ? "first" : times + ". "} time. It counts.`; offer(times); } catch { $("note").textContent = "It will count when you are back online."; const later = () => { removeEventListener("online", later); send("Played", { block, position: 0, share: 1, finished: true }); }; addEventListener("online", later); }
    };
    // What finishing offers to mark: this run counts once, however often the button is pressed.
    const tally = f.querySelector("[data-tally] form"); let finished = null;
    const offer = times => { if (!tally) return; finished = times; const b = tally.querySelector("button"); b.disabled = false; b.querySelector("[data-word]").textContent = "I did it"; b.classList.replace("btn-plain", "btn-pine"); f.querySelector(".tally-offer").classList.add("now"); b.focus(); };
    tally?.addEventListener("submit", async e => {
      e.preventDefault();
      const b = tally.querySelector("button"), says = f.querySelector("[data-tally-says]"), values = { block }; if (finished) values.run = finished;
      b.disabled = true;
      try {
        const answer = await send("Tally", values); if (!answer.ok) throw new Error(await answer.text());
        const now = await answer.json(); says.textContent = now.says; f.querySelector(".tally-ring").outerHTML = now.ring; b.querySelector("[data-word]").textContent = "Marked"; b.classList.replace("btn-pine", "btn-plain"); if (!finished) b.disabled = false;
      }
      catch (error) { b.disabled = false; says.textContent = error instanceof TypeError ? "Not marked: there is no connection. Try again." : error.message; }
    });
    $("next").addEventListener("click", () => { if (run.sounds) beep(true); go(at + 1); });
    $("back").addEventListener("click", () => go(Math.max(0, at - 1)));
    $("pause").addEventListener("click", () => { if (paused) { paused = false; since = performance.now(); $("pause").textContent = "Pause"; wake(true); } else { left = remaining(); paused = true; $("pause").textContent = "Go on"; wake(false); } });
  }

  // Answers to a practice sheet are kept while they are given.
  for (const sheet of document.querySelectorAll("[data-sheet]")) {
    const state = sheet.querySelector("[data-sheet-state]"); if (!state) continue;
    let timer; const keep = () => { const data = new FormData(sheet); data.set("act", "keep"); fetch(sheet.action, { method: "POST", body: data, headers: { "X-Autosave": "1" } }).then(r => { state.textContent = r.ok ? "your answers are kept" : "not kept yet"; }, () => { state.textContent = "not kept yet: no connection"; }); };
    sheet.addEventListener("input", () => { clearTimeout(timer); timer = setTimeout(keep, 900); });
    sheet.addEventListener("submit", () => clearTimeout(timer));
  }
  for (const note of document.querySelectorAll("[data-keep-note]")) {
    const state = note.querySelector("[data-note-state]"); let timer;
    note.addEventListener("input", () => { clearTimeout(timer); timer = setTimeout(() => fetch(note.action, { method: "POST", body: new FormData(note), headers: { "X-Autosave": "1" } }).then(r => { state.textContent = r.ok ? "kept" : "not kept"; }, () => { state.textContent = "not kept: no connection"; }), 900); });
  }

  // Questions of a form come and go with the answers before them; without scripts all are there and the server passes over those that aren't asked.
  for (const form of document.querySelectorAll("[data-form]")) {
    const questions = [...form.querySelectorAll("[data-question]")];
    const given = q => [...q.querySelectorAll("input, textarea, select")].filter(i => i.type !== "radio" && i.type !== "checkbox" || i.checked).map(i => i.value.trim()).filter(v => v);
    const same = (a, b) => a.normalize("NFKC").trim().toLowerCase().replace(/\s+/g, " ") === b.normalize("NFKC").trim().toLowerCase().replace(/\s+/g, " ");
    const update = () => { for (const q of questions) { if (!q.dataset.if) continue; const of = questions.find(x => x.dataset.question === q.dataset.if), v = of && !of.hidden ? given(of) : [], n = Number((v[0] ?? "").replace(",", ".")), x = Number(q.dataset.value.replace(",", "."));
      q.hidden = !(v.length > 0 && { Answered: true, Is: same(v[0] ?? "", q.dataset.value), IsNot: !same(v[0] ?? "", q.dataset.value), Includes: v.some(y => same(y, q.dataset.value)), AtLeast: n >= x, AtMost: n <= x }[q.dataset.when]); } };
    form.addEventListener("input", update); update();
  }

  // A deterrent only: menus and marking with the mouse are off, the keyboard and screen readers are left alone.
  if (lesson.dataset.copyGuard) { const page = lesson.querySelector(".page"); page.addEventListener("contextmenu", e => { if (!e.target.closest("input, textarea, a")) e.preventDefault(); }); page.addEventListener("copy", e => { if (!e.target.closest?.("input, textarea")) e.preventDefault(); }); page.addEventListener("dragstart", e => { if (e.target.matches("img")) e.preventDefault(); }); }
})();
