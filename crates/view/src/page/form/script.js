"use strict";
// Looks into passes, and runs rigs side by side. Without it the page says the same, and stands still.
(() => {
  const all = (what, within = document) => [...within.querySelectorAll(what)];
  const paint = name => getComputedStyle(document.documentElement).getPropertyValue("--" + name);

  async function unpacked(box) {
    const text = atob(box.querySelector("script").textContent.trim());
    const packed = Uint8Array.from(text, c => c.charCodeAt(0));
    const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("deflate-raw"));
    const bytes = new Uint8Array(await new Response(stream).arrayBuffer());
    const count = bytes.length / 3, step = Number(box.dataset.step) / 1e6;
    const ms = new Float64Array(count), begins = new Float64Array(count + 1);
    for (let at = 0; at < count; at++) {
      ms[at] = (bytes[at] | bytes[count + at] << 8 | bytes[2 * count + at] << 16) * step;
      begins[at + 1] = begins[at] + ms[at];
    }
    return { ms, begins, whole: begins[count] };
  }

  // The frame that is shown at a moment, by halving.
  function frameAt(pass, moment) {
    let low = 0, high = pass.ms.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (pass.begins[middle] <= moment) low = middle; else high = middle - 1;
    }
    return low;
  }

  function looked(box, pass) {
    const canvas = box.querySelector("canvas"), said = box.querySelector("output");
    const budget = Number(box.dataset.budget) || 0;
    const cut = box.dataset.cut.split(" ").filter(Boolean).map(c => c.split(",").map(s => s * 1000));
    const view = { from: 0, to: pass.whole, at: null };
    const left = 46, foot = 18;

    function draw() {
      const wide = canvas.clientWidth, high = canvas.clientHeight, dots = devicePixelRatio || 1;
      canvas.width = wide * dots;
      canvas.height = high * dots;
      const to = canvas.getContext("2d");
      to.scale(dots, dots);
      to.font = "12px Inter, sans-serif";
      const span = view.to - view.from, across = wide - left;
      const x = moment => left + (moment - view.from) / span * across;
      const columns = [];
      let most = budget * 1.2;
      for (let column = 0; column < across; column++) {
        const first = frameAt(pass, view.from + column / across * span);
        const last = Math.max(first, frameAt(pass, view.from + (column + 1) / across * span - 1e-9));
        let low = Infinity, top = 0;
        for (let at = first; at <= last; at++) {
          low = Math.min(low, pass.ms[at]);
          top = Math.max(top, pass.ms[at]);
        }
        columns.push([low, top]);
        most = Math.max(most, top * 1.08);
      }
      const y = ms => (high - foot) * (1 - ms / most) + 2;
      to.fillStyle = paint("mist");
      for (const [from, until] of cut) to.fillRect(x(from), 0, x(until) - x(from), high - foot);
      to.fillStyle = paint("grey");
      to.strokeStyle = paint("mist");
      const step = 10 ** Math.floor(Math.log10(most)) / (most / 10 ** Math.floor(Math.log10(most)) < 3 ? 2 : 1);
      to.textAlign = "right";
      for (let ms = step; ms < most; ms += step) {
        to.beginPath();
        to.moveTo(left, y(ms));
        to.lineTo(wide, y(ms));
        to.stroke();
        if (y(ms) > 10) to.fillText(Number(ms.toPrecision(3)) + " ms", left - 4, y(ms) + 4);
      }
      to.textAlign = "left";
      to.fillText((view.from / 1000).toFixed(3) + " s", left, high - 3);
      to.textAlign = "right";
      to.fillText((view.to / 1000).toFixed(3) + " s", wide - 2, high - 3);
      if (budget) {
        to.strokeStyle = paint("brass");
        to.setLineDash([6, 4]);
        to.beginPath();
        to.moveTo(left, y(budget));
        to.lineTo(wide, y(budget));
        to.stroke();
        to.setLineDash([]);
      }
      to.strokeStyle = paint("lake");
      to.beginPath();
      columns.forEach(([low, top], column) => {
        to.lineTo(left + column + 0.5, y(top));
        to.lineTo(left + column + 0.5, y(low));
      });
      to.stroke();
      if (view.at !== null) {
        const middle = x(pass.begins[view.at] + pass.ms[view.at] / 2);
        to.strokeStyle = paint("clay");
        to.beginPath();
        to.moveTo(middle, 0);
        to.lineTo(middle, high - foot);
        to.stroke();
      }
    }

    function say() {
      if (view.at === null) return;
      const at = view.at;
      said.textContent = `frame ${at + 1} at ${(pass.begins[at] / 1000).toFixed(3)} s: ${pass.ms[at].toFixed(2)} ms`;
    }

    function show(from, to) {
      const least = Math.min(50, pass.whole), span = Math.min(Math.max(to - from, least), pass.whole);
      const begin = Math.min(Math.max(from, 0), pass.whole - span);
      view.from = begin;
      view.to = begin + span;
      draw();
    }

    const moves = {
      in: () => near(0.5),
      out: () => near(2),
      left: () => show(view.from - (view.to - view.from) / 4, view.to - (view.to - view.from) / 4),
      right: () => show(view.from + (view.to - view.from) / 4, view.to + (view.to - view.from) / 4),
      whole: () => show(0, pass.whole),
    };
    function near(factor, share = 0.5) {
      const span = view.to - view.from, fixed = view.from + span * share;
      show(fixed - span * factor * share, fixed + span * factor * (1 - share));
    }
    const shareOf = event => Math.min(1, Math.max(0, (event.offsetX - left) / (canvas.clientWidth - left)));
    for (const button of all("button", box)) button.onclick = () => moves[button.dataset.do]();
    canvas.onkeydown = event => {
      const done = { "+": "in", "-": "out", ArrowLeft: "left", ArrowRight: "right", 0: "whole" }[event.key];
      if (event.key === "." || event.key === ",") {
        const next = (view.at ?? frameAt(pass, view.from)) + (event.key === "." ? 1 : -1);
        view.at = Math.min(Math.max(next, 0), pass.ms.length - 1);
        const moment = pass.begins[view.at];
        if (moment < view.from || moment > view.to) show(moment - (view.to - view.from) / 2, moment + (view.to - view.from) / 2);
        draw();
        say();
      } else if (done) moves[done]();
      else return;
      event.preventDefault();
    };
    canvas.onwheel = event => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      near(event.deltaY > 0 ? 1.25 : 0.8, shareOf(event));
    };
    let held = null;
    canvas.onpointerdown = event => {
      held = { x: event.clientX, from: view.from, to: view.to };
      canvas.setPointerCapture(event.pointerId);
    };
    canvas.onpointerup = () => { held = null; };
    canvas.onpointermove = event => {
      if (held) {
        const moved = (held.x - event.clientX) / (canvas.clientWidth - left) * (held.to - held.from);
        show(held.from + moved, held.to + moved);
        return;
      }
      view.at = frameAt(pass, view.from + shareOf(event) * (view.to - view.from));
      draw();
      say();
    };
    canvas.ondblclick = event => near(0.25, shareOf(event));
    new ResizeObserver(draw).observe(canvas);
    matchMedia("(prefers-color-scheme: dark)").addEventListener("change", draw);
  }

  // A pass is unpacked when it comes into sight, so that a page of many is quick.
  const sight = new IntersectionObserver(seen => {
    for (const one of seen.filter(one => one.isIntersecting)) {
      sight.unobserve(one.target);
      unpacked(one.target).then(pass => {
        looked(one.target, pass);
        one.target.dataset.ready = "yes";
      });
    }
  }, { rootMargin: "200px" });
  for (const box of all(".frames")) {
    box.hidden = false;
    sight.observe(box);
  }

  // Long tables are carried packed; where they can be unpacked here, they are saved as they are.
  for (const link of all("a[data-plain]")) {
    link.onclick = async event => {
      event.preventDefault();
      const packed = Uint8Array.from(atob(link.href.split(",")[1]), c => c.charCodeAt(0));
      const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"));
      const plain = document.createElement("a");
      plain.href = URL.createObjectURL(new Blob([await new Response(stream).arrayBuffer()], { type: "text/csv" }));
      plain.download = link.dataset.plain;
      plain.click();
      setTimeout(() => URL.revokeObjectURL(plain.href), 60000);
    };
    link.textContent = link.dataset.plain;
  }

  // Those who have the page read to them, or search it, find all of it once there is time to lay it out.
  const waiting = all("main > section");
  const lay = () => {
    waiting.shift()?.classList.add("laid");
    if (waiting.length) later(lay);
  };
  const later = window.requestIdleCallback ?? (done => setTimeout(done, 50));
  later(lay);

  const MOST_SECONDS = 12;
  for (const race of all(".race")) {
    const bars = all("progress", race);
    const slowest = Math.max(...bars.map(bar => Number(bar.dataset.seconds)));
    const quick = Math.max(1, slowest / MOST_SECONDS), slow = Math.max(1, 3 / slowest);
    const speed = quick > 1 ? quick : 1 / slow;
    const button = document.createElement("button");
    button.type = "button";
    const how = Math.abs(speed - 1) < 0.01 ? "in true time" : speed > 1 ? `${speed.toPrecision(3)} times as fast as it was` : `slowed down ${(1 / speed).toPrecision(3)} times`;
    button.textContent = `run them side by side (${how})`;
    race.append(button);
    button.onclick = () => {
      const began = performance.now();
      button.disabled = true;
      const step = now => {
        const seconds = (now - began) / 1000 * speed;
        for (const bar of bars) bar.value = Math.min(1, Math.max(0, seconds / bar.dataset.seconds));
        if (seconds < slowest) requestAnimationFrame(step); else button.disabled = false;
      };
      requestAnimationFrame(step);
    };
  }
})();
