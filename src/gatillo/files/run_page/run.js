"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const [run, beside] = data.runs;
  const SVG = "http://www.w3.org/2000/svg";
  const GONE = -1000;
  const by = (id) => document.getElementById(id);
  const make = (name, attributes, parent) => {
    const one = document.createElementNS(SVG, name);
    for (const [key, value] of Object.entries(attributes)) one.setAttribute(key, value);
    if (parent) parent.append(one);
    return one;
  };
  const element = (name, text, parent, kind) => {
    const one = document.createElement(name);
    if (text) one.textContent = text;
    if (kind) one.className = kind;
    parent.append(one);
    return one;
  };

  // the level at the cursor

  const stage = make("svg", { viewBox: `0 0 ${run.width} ${run.height}`, role: "img" }, by("stage"));
  const scenery = make("g", { id: "scenery" }, stage);
  const places = make("g", { id: "places" }, stage);
  const ghosts = make("g", { id: "ghosts" }, stage);
  const things = make("g", { id: "things" }, stage);
  const shape = (size, attributes, parent) =>
    size.length === 1
      ? make("circle", { r: size[0], ...attributes }, parent)
      : make("rect", { x: -size[0] / 2, y: -size[1] / 2, width: size[0], height: size[1], ...attributes }, parent);
  for (const place of run.places) {
    if (place.stops) {
      const points = place.stops.map(([x, y]) => `${x},${run.height - y}`).join(" ");
      make("polyline", { points, class: "place" }, places);
      continue;
    }
    const group = make("g", { transform: `translate(${place.x} ${run.height - place.y})` }, places);
    shape(place.shape || [3], { class: "place" }, group);
    make("text", { class: "place-name", y: -4 }, group).textContent = place.name;
  }

  const picture = (kind, group) => {
    const [w, h] = kind.shape.length === 1 ? [2 * kind.shape[0], 2 * kind.shape[0]] : kind.shape;
    make("image", { href: kind.picture, x: -w / 2, y: -h / 2, width: w, height: h }, group);
  };
  const deepest = [...run.scenery].sort((a, b) => run.kinds[b[0]].depth - run.kinds[a[0]].depth);
  for (const [number, x, y, angle, scale, name] of deepest) {
    const kind = run.kinds[number];
    const place = `translate(${x} ${run.height - y}) rotate(${-angle}) scale(${scale})`;
    const group = make("g", { transform: place }, scenery);
    make("title", {}, group).textContent = name;
    if (kind.picture) picture(kind, group);
    else shape(kind.shape, { fill: kind.colour, "fill-opacity": 0.12, stroke: kind.colour, "stroke-opacity": 0.4 }, group);
  }

  // where everything is, tick by tick: the moves are added up as the cursor goes on
  class Shown {
    constructor(of, layer, ghost) {
      Object.assign(this, { of, layer, ghost, at: -1, groups: [] });
      const order = of.objects.map((_, at) => at);
      const depth = (at) => of.kinds[of.objects[at][1]];
      order.sort((a, b) => depth(b).depth - depth(a).depth || a - b);
      for (const at of order) this.groups[at] = this.drawn(of.objects[at]);
    }
    drawn([name, number]) {
      const kind = this.of.kinds[number];
      const group = make("g", { visibility: "hidden", class: this.ghost ? "ghost" : "thing" }, this.layer);
      make("title", {}, group).textContent = name;
      const size = kind.shape;
      if (kind.picture) {
        picture(kind, group);
        return group;
      }
      const opacity = this.ghost ? 0 : 0.28;
      shape(size, { fill: kind.colour, "fill-opacity": opacity, stroke: kind.colour, "stroke-width": 1.4 }, group);
      if (kind.glyph) make("text", { class: "glyph", fill: kind.colour }, group).textContent = kind.glyph;
      else if (size.length === 1) {
        const turn = (-kind.facing * Math.PI) / 180;
        const [x, y] = [Math.cos(turn) * size[0], Math.sin(turn) * size[0]];
        make("line", { x1: x * 0.5, y1: y * 0.5, x2: x, y2: y, stroke: kind.colour, "stroke-width": 1.4 }, group);
      }
      return group;
    }
    show(tick) {
      const last = this.of.moves.length - 1;
      const to = tick >= this.of.ticks ? last : Math.min(last, Math.floor(tick / this.of.every));
      if (to < this.at) this.at = -1;
      if (this.at < 0) for (const group of this.groups) group.setAttribute("visibility", "hidden");
      const changed = new Map();
      for (let at = this.at + 1; at <= to; at++) {
        const moves = this.of.moves[at];
        for (let i = 0; i < moves.length; i += 5) changed.set(moves[i], moves.slice(i + 1, i + 5));
      }
      this.at = to;
      for (const [at, [x, y, angle, scale]] of changed) {
        const group = this.groups[at];
        group.setAttribute("visibility", scale > 0 ? "visible" : "hidden");
        if (scale !== GONE)
          group.setAttribute("transform", `translate(${x} ${this.of.height - y}) rotate(${-angle}) scale(${Math.abs(scale)})`);
      }
    }
  }
  const shown = [new Shown(run, things, false)];
  if (beside) shown.push(new Shown(beside, ghosts, true));

  // rules and their lanes

  const byRule = (of) => {
    const found = new Map();
    for (const [tick, , rule] of of.firings) {
      const ticks = found.get(rule) || found.set(rule, []).get(rule);
      if (ticks[ticks.length - 1] !== tick) ticks.push(tick);
    }
    return found;
  };
  const stretches = (ticks) => {
    const found = [];
    for (const tick of ticks) {
      const last = found[found.length - 1];
      if (last && tick === last[1] + 1) last[1] = tick;
      else found.push([tick, tick]);
    }
    return found;
  };
  const fired = byRule(run);
  const otherFired = beside ? byRule(beside) : null;
  const otherAt = new Map(beside ? beside.rules.map((rule) => [rule.id, rule.at]) : []);
  const cursors = [];
  const names = new Map(run.rules.map((rule) => [rule.at, rule.name]));
  const WIDE = 1000;
  const across = (tick) => (tick / Math.max(1, run.ticks)) * WIDE;
  const axis = element("div", "", by("order"), "row axis");
  element("div", "rules, from top to bottom in each tick", axis, "name quiet");
  const times = element("div", "", axis, "times");
  const length = run.ticks / run.rate;
  const each = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60, 120, 300, 600].find((s) => length / s <= 12) || 1800;
  for (let at = 0; at <= length; at += each) {
    const mark = element("span", `${Math.round(at * 10) / 10} s`, times);
    mark.style.left = `${(100 * at) / length}%`;
  }
  let section = null;
  run.rules.forEach((rule, number) => {
    if (rule.section !== section && rule.section) {
      const head = element("div", "", by("order"), "row section");
      element("div", rule.section, head, "name");
    }
    section = rule.section;
    const row = element("div", "", by("order"), rule.on ? "row" : "row off");
    row.dataset.rule = rule.at;
    const name = element("div", `${number + 1}  ${rule.name} `, row, "name");
    element("span", rule.words, name);
    name.title = rule.words;
    const lane = make("svg", { viewBox: `0 0 ${WIDE} 22`, preserveAspectRatio: "none", role: "img" }, row);
    const ticks = fired.get(rule.at) || [];
    lane.setAttribute("aria-label", `${rule.name} fired in ${ticks.length} ticks`);
    for (const [from, to] of stretches(ticks))
      make("rect", { class: "mark", x: across(from) - 1, y: 4, width: across(to) - across(from) + 2, height: 14 }, lane);
    if (otherFired) {
      const mine = new Set(ticks);
      const gone = (otherFired.get(otherAt.get(rule.id)) || []).filter((tick) => !mine.has(tick));
      for (const [from, to] of stretches(gone))
        make("rect", { class: "other", x: across(from) - 1, y: 6, width: across(to) - across(from) + 2, height: 10 }, lane);
    }
    cursors.push(make("line", { class: "lane-cursor", y1: 0, y2: 22 }, lane));
    lane.addEventListener("click", (event) => {
      const box = lane.getBoundingClientRect();
      go(Math.round(((event.clientX - box.left) / box.width) * run.ticks), null);
    });
  });

  // the cursor: a tick, and how many of its firings are behind it

  const firingsOf = new Map();
  run.firings.forEach((firing, at) => {
    (firingsOf.get(firing[0]) || firingsOf.set(firing[0], []).get(firing[0])).push(at);
  });
  let tick = 0;
  let firing = -1;
  let playing = null;
  const slider = by("cursor");
  slider.max = run.ticks;
  function go(to, at) {
    tick = Math.max(0, Math.min(run.ticks, to));
    const here = firingsOf.get(tick) || [];
    firing = at === null ? (here.length ? here[here.length - 1] : firing_before(tick)) : at;
    slider.value = tick;
    by("clock").textContent = `${(tick / run.rate).toFixed(3)} s   tick ${tick}`;
    const list = by("fired");
    list.replaceChildren();
    for (const number of here) {
      const [, , rule, matches, whom] = run.firings[number];
      const many = matches === 1 ? "" : ` for ${matches} matches`;
      const one = element("li", `“${names.get(rule)}” fired${many}${whom ? ` (${whom})` : ""}`, list);
      if (number === firing) one.className = "here";
    }
    for (const [when, text] of run.notes) if (when === tick) element("li", text, list, "quiet");
    for (const line of cursors) {
      line.setAttribute("x1", across(tick));
      line.setAttribute("x2", across(tick));
    }
    for (const one of shown) one.show(tick);
  }
  function firing_before(when) {
    let found = -1;
    for (let at = 0; at < run.firings.length && run.firings[at][0] <= when; at++) found = at;
    return found;
  }
  function step(by_) {
    const to = firing + by_;
    if (to >= 0 && to < run.firings.length) go(run.firings[to][0], to);
  }
  function play() {
    if (playing !== null) {
      cancelAnimationFrame(playing);
      playing = null;
      by("play").textContent = "Play";
      return;
    }
    if (tick >= run.ticks) go(0, null);
    by("play").textContent = "Pause";
    let begun = null;
    const from = tick;
    const next = (now) => {
      begun = begun === null ? now : begun;
      go(from + Math.floor(((now - begun) / 1000) * run.rate), null);
      playing = tick < run.ticks ? requestAnimationFrame(next) : null;
      if (playing === null) by("play").textContent = "Play";
    };
    playing = requestAnimationFrame(next);
  }
  slider.addEventListener("input", () => go(Number(slider.value), null));
  by("play").addEventListener("click", play);
  document.addEventListener("keydown", (event) => {
    if (event.target.tagName === "BUTTON" && event.key === " ") return;
    const wide = event.shiftKey ? run.rate : 1;
    const deeds = {
      ArrowLeft: () => go(tick - wide, null),
      ArrowRight: () => go(tick + wide, null),
      ArrowUp: () => step(-1),
      ArrowDown: () => step(1),
      Home: () => go(0, null),
      End: () => go(run.ticks, null),
      " ": play,
    };
    if (deeds[event.key]) {
      event.preventDefault();
      deeds[event.key]();
    }
  });

  // what must hold

  const held = run.verdicts.filter((one) => one.outcome === "held").length;
  by("count").textContent = `${held} of ${run.verdicts.length} expectations hold` + (run.faults.length ? `; ${run.faults.length} faults` : "");
  const marks = { held: "✓", failed: "✗" };
  for (const one of run.verdicts) {
    const item = element("li", "", by("verdicts"));
    const kind = one.outcome === "held" ? "held" : "failed";
    const said = one.outcome === "held" ? one.sentence : `${one.sentence}: ${one.outcome}, ${one.reason}`;
    const button = element("button", `${marks[one.outcome] || "?"} ${said}`, item, kind);
    if (one.tick !== null) button.addEventListener("click", () => go(one.tick, null));
    if (one.why && one.why.length) element("pre", one.why.join("\n"), item);
  }
  for (const [when, text] of run.faults) {
    const item = element("li", "", by("verdicts"));
    element("button", `✗ fault: ${text}`, item, "failed").addEventListener("click", () => go(when, null));
  }
  go(0, null);
})();
