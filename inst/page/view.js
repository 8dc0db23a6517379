(async function () {
  "use strict";
  const $ = id => document.getElementById(id);
  const grid = $("grid"), sheet = $("sheet"), side = $("side"), told = $("told");

  // The data: a head of words, then whole numbers, deflated.
  const text = atob($("data").textContent), packed = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at++) packed[at] = text.charCodeAt(at);
  $("data").remove();
  const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("deflate"));
  const buffer = await new Response(stream).arrayBuffer();
  const size = new DataView(buffer).getUint32(0, true);
  const d = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size)));
  let offset = 4 + size;
  const arrays = d.arrays.map(([width, n]) => {
    const part = buffer.slice(offset, offset + width * n);
    offset += width * n;
    return width === 1 ? new Uint8Array(part) : width === 2 ? new Uint16Array(part) : new Uint32Array(part);
  });
  const list = x => x == null ? [] : Array.isArray(x) ? x : typeof x === "object" ? Object.values(x) : [x];
  const lines = new Map(list(d.lines));
  const n = d.records.n, keys = arrays[d.records.keys], waveOf = arrays[d.records.wave], exportOf = arrays[d.records.export];
  const lineOf = arrays[d.records.line], droppedOf = arrays[d.records.dropped];
  const key = list(d.records.key), waves = list(d.waves), exports = list(d.exports), words = list(d.words);
  const reasonName = list(d.reasons.name), reasonLabel = list(d.reasons.label);
  const conditions = list(d.conditions).map(c => ({ text: c.text, uses: list(c.uses), truth: arrays[c.truth] }));
  const vars = list(d.variables).map(v => Object.assign(v, {
    value: list(v.value), text: v.text == null ? list(v.value) : list(v.text), uses: list(v.uses), absent: list(v.absent),
    universe: list(v.universe), state: arrays[v.state], raw: list(v.raw).map(r => Object.assign(r, {
      cells: list(r.cells), decoded: new Map([...arrays[r.other]].map((at, k) => [at, list(r.decoded)[k]])), index: arrays[r.index], line: arrays[r.line], words: arrays[r.words], paths: arrays[r.paths]
    })), done: list(v.done).map(e => Object.assign(e, {
      now: list(e.now), was: list(e.was), rows: arrays[e.rows], to: arrays[e.to], from: arrays[e.from]
    })), codes: v.codes == null ? null : list(v.codes), earlier: v.earlier == null ? null : arrays[v.earlier]
  }));
  const byName = new Map(vars.map(v => [v.name, v]));
  for (const v of vars) {
    v.touched = new Map();
    v.done.forEach((e, k) => e.rows.forEach((row, at) => {
      if (!v.touched.has(row)) v.touched.set(row, []);
      v.touched.get(row).push([k, at]);
    }));
  }

  // A cell: its value or the reason why there is none.
  const isGap = (v, row) => v.state[row] >= v.value.length;
  const reasonAt = (v, row) => v.state[row] - v.value.length;
  const both = (v, k) => v.text[k] !== v.value[k] && v.storage === "coded" ? v.value[k] + " " + v.text[k] : v.value[k];
  const shownAt = (v, row) => isGap(v, row) ? "" : both(v, v.state[row]);
  const said = (v, row) => isGap(v, row) ? "empty: " + reasonLabel[reasonAt(v, row)] : shownAt(v, row);
  const rawAt = (v, row) => v.raw.map(r => r.index[row] ? r.cells[r.index[row] - 1] : "").filter(Boolean).join(" | ");
  const shownIn = (v, row) => {
    if (state.raw && v.raw.length) return rawAt(v, row);
    if (isGap(v, row)) return "(" + reasonLabel[reasonAt(v, row)] + ")";
    return state.codes ? v.value[v.state[row]] : v.text[v.state[row]];
  };
  const markAt = (v, row) => {
    const done = v.touched.get(row) || [];
    let mark = "";
    for (const [k] of done) {
      const e = v.done[k];
      if (e.kind === "corrected") return ["\u270e", "corrected"];
      if (e.kind === "imputed") mark = mark || ["\u25cb", "a gap filled"];
      if (e.gap || e.kind === "unlisted") mark = ["\u2715", "set aside"];
    }
    return mark;
  };

  // What is shown.
  const state = { codes: false, raw: false, dropped: false, filters: [], sort: null, hidden: new Set(), row: 0, column: -1, side: null };
  for (const v of vars) if (!v.kept) state.hidden.add(v.name);
  let columns = [], rows = [], left = [], wide = 0;
  const rowHeight = 28, headHeight = 56;
  let nameWidth = 150;
  const widthOf = v => Math.min(260, Math.max(104, 8.2 * Math.min(34, Math.max(v.name.length + 1, ...v.text.slice(0, 200).map(t => t.length))) + 22));

  function lay() {
    columns = vars.filter(v => v.shown && !state.hidden.has(v.name));
    nameWidth = innerWidth < 760 ? 108 : 150;
    left = [];
    wide = nameWidth;
    for (const v of columns) { v.width = v.width || widthOf(v); left.push(wide); wide += v.width; }
    choose();
  }

  const folded = text => text.normalize("NFC").toLowerCase();
  const passes = f => {
    const v = byName.get(f.name), k = v.value.length;
    const fits = new Uint8Array(k + reasonName.length);
    const any = f.values.size || f.reasons.size || f.words || f.from !== "" || f.to !== "";
    if (!any) return null;
    const order = x => v.storage === "date" ? x : Number(x);
    v.value.forEach((value, at) => {
      let ok = f.values.has(at);
      if (f.words) ok = folded(v.text[at] + " " + value).includes(folded(f.words));
      if (f.from !== "" || f.to !== "") ok = (f.from === "" || order(value) >= order(f.from)) && (f.to === "" || order(value) <= order(f.to));
      fits[at] = ok ? 1 : 0;
    });
    f.reasons.forEach(at => { fits[k + at] = 1; });
    return row => fits[v.state[row]] === 1;
  };

  function choose() {
    const tests = state.filters.map(passes).filter(Boolean);
    rows = [];
    for (let row = 0; row < n; row++) {
      if (!state.dropped && words[droppedOf[row]] !== "") continue;
      let ok = true;
      for (const test of tests) if (!test(row)) { ok = false; break; }
      if (ok) rows.push(row);
    }
    if (state.sort) {
      const v = byName.get(state.sort.name), k = v.value.length, down = state.sort.down ? -1 : 1;
      const plain = v.storage === "text" || v.storage === "set";
      const rank = Array.from(v.value.keys()).sort((a, b) => plain ? (v.value[a] < v.value[b] ? -1 : 1) : a - b);
      const place = new Uint32Array(k + reasonName.length);
      rank.forEach((at, i) => { place[at] = i; });
      rows.sort((a, b) => {
        const s = v.state[a], t = v.state[b], gs = s >= k, gt = t >= k;
        if (gs || gt) return gs && gt ? s - t || a - b : gs ? 1 : -1;
        return down * (place[s] - place[t]) || a - b;
      });
    }
    state.row = Math.min(state.row, Math.max(rows.length - 1, 0));
    const of = state.dropped ? n : n - droppedOf.filter(w => words[w] !== "").length;
    told.textContent = rows.length.toLocaleString("en") + " of " + of.toLocaleString("en") + (of === 1 ? " record" : " records") +
      (d.choice.sampled ? "; a sample of " + d.choice.of.toLocaleString("en") + ", at even distances" : "") + (d.choice.where ? "; where " + d.choice.where : "");
    const set = tests.length;
    $("filters").textContent = set ? "Filters (" + set + ")" : "Filters";
    grid.setAttribute("aria-rowcount", rows.length + 1);
    grid.setAttribute("aria-colcount", columns.length + 1);
    sheet.style.height = headHeight + rows.length * rowHeight + 4 + "px";
    sheet.style.width = wide + "px";
    draw();
  }

  const el = (tag, attributes, ...inside) => {
    const node = document.createElement(tag);
    for (const name in attributes || {}) if (attributes[name] != null && attributes[name] !== false) {
      if (name.startsWith("on")) node.addEventListener(name.slice(2), attributes[name]);
      else node.setAttribute(name, attributes[name] === true ? "" : attributes[name]);
    }
    for (const one of inside.flat(9)) if (one != null && one !== "") node.append(one);
    return node;
  };

  // What stands between backticks is code.
  const coded = text => text.split(/`([^`]+)`/).map((part, at) => at % 2 ? el("code", null, part) : part);

  // Only what is in sight is drawn, and one screen above and below.
  let drawn = "";
  function draw(anew = true) {
    const top = grid.scrollTop, from = Math.max(0, Math.floor((top - headHeight) / rowHeight) - 10);
    const to = Math.min(rows.length, from + Math.ceil(grid.clientHeight / rowHeight) + 20);
    const a = columns.findIndex((v, k) => left[k] + v.width > grid.scrollLeft + nameWidth - 200);
    let b = columns.findIndex((v, k) => left[k] > grid.scrollLeft + grid.clientWidth + 200);
    if (b < 0) b = columns.length;
    const now = [from, to, a, b].join(" ");
    if (!anew && now === drawn) return;
    drawn = now;
    const inView = columns.slice(Math.max(a, 0), b), first = Math.max(a, 0);
    const head = el("div", { class: "row head", role: "row", "aria-rowindex": 1, style: "width:" + wide + "px" },
      cell("columnheader", -1, -1, "name", 0, nameWidth, [el("b", null, "Record"), waves.length > 1 ? "key, wave" : "key"]),
      inView.map((v, k) => cell("columnheader", -1, first + k, v.storage === "number" ? "number" : "", left[first + k], v.width,
        [el("b", null, (state.sort && state.sort.name === v.name ? (state.sort.down ? "\u25bc " : "\u25b2 ") : "") + v.name), el("span", null, v.label)], v.label)));
    const body = rows.slice(from, to).map((row, i) => {
      const at = from + i, out = words[droppedOf[row]] !== "";
      return el("div", { class: "row" + (at % 2 ? " odd" : "") + (out ? " out" : ""), role: "row", "aria-rowindex": at + 2, style: "top:" + (headHeight + at * rowHeight) + "px;width:" + wide + "px" },
        cell("rowheader", at, -1, "name", 0, nameWidth, [(out ? "\u2013 " : "") + key[keys[row]] + (waves.length > 1 ? " \u00b7 " + waves[waveOf[row]].name : "")], out ? words[droppedOf[row]] : "open as a form"),
        inView.map((v, k) => {
          const mark = markAt(v, row), gap = isGap(v, row) && !(state.raw && v.raw.length);
          return cell("gridcell", at, first + k, (v.storage === "number" && !state.raw ? "number" : "") + (gap ? " gap" : ""), left[first + k], v.width,
            [mark ? el("span", { class: "mark", title: mark[1], role: "img", "aria-label": mark[1] }, mark[0]) : "", shownIn(v, row).slice(0, 300)]);
        }));
    });
    sheet.replaceChildren(head, ...body);
    point();
  }

  function cell(role, row, column, kind, x, width, inside, title) {
    return el("div", {
      role: role, id: "c" + row + "_" + column, class: kind.trim(), "aria-colindex": column + 2, title: title || null,
      style: (kind.includes("name") ? "" : "left:" + x + "px;") + "width:" + width + "px"
    }, inside);
  }

  function point() {
    sheet.querySelectorAll(".at").forEach(one => one.classList.remove("at"));
    const one = $("c" + state.row + "_" + state.column);
    if (!one) return grid.removeAttribute("aria-activedescendant");
    one.classList.add("at");
    grid.setAttribute("aria-activedescendant", one.id);
  }

  function go(row, column) {
    state.row = Math.max(-1, Math.min(rows.length - 1, row));
    state.column = Math.max(-1, Math.min(columns.length - 1, column));
    if (state.row >= 0) {
      const y = headHeight + state.row * rowHeight;
      if (y < grid.scrollTop + headHeight) grid.scrollTop = y - headHeight;
      if (y + rowHeight > grid.scrollTop + grid.clientHeight) grid.scrollTop = y + rowHeight - grid.clientHeight;
    }
    if (state.column >= 0) {
      const x = left[state.column], w = columns[state.column].width;
      if (x < grid.scrollLeft + nameWidth) grid.scrollLeft = x - nameWidth;
      if (x + w > grid.scrollLeft + grid.clientWidth) grid.scrollLeft = Math.min(x - nameWidth, x + w - grid.clientWidth);
    }
    draw();
  }

  function open() {
    if (state.row < 0 && state.column >= 0) return variablePanel(columns[state.column]);
    if (state.row < 0) return;
    if (state.column < 0) return formPanel(state.row);
    storyPanel(columns[state.column], rows[state.row]);
  }

  grid.addEventListener("scroll", () => draw(false), { passive: true });
  addEventListener("resize", () => { lay(); go(state.row, state.column); });
  grid.addEventListener("click", event => {
    const one = event.target.closest("[id^='c']");
    if (!one || !sheet.contains(one)) return;
    const [row, column] = one.id.slice(1).split("_").map(Number);
    state.row = row; state.column = column;
    point();
    open();
  });
  grid.addEventListener("keydown", event => {
    if (event.ctrlKey && !["Home", "End"].includes(event.key) || event.metaKey || event.altKey) return;
    const page = Math.max(1, Math.floor((grid.clientHeight - headHeight) / rowHeight) - 1);
    const moves = {
      ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1], PageDown: [page, 0], PageUp: [-page, 0]
    };
    if (moves[event.key]) go(event.key === "PageUp" ? Math.max(0, state.row - page) : state.row + moves[event.key][0], state.column + moves[event.key][1]);
    else if (event.key === "Home") go(event.ctrlKey ? 0 : state.row, -1);
    else if (event.key === "End") go(event.ctrlKey ? rows.length - 1 : state.row, columns.length - 1);
    else if (event.key === "Enter" || event.key === " ") open();
    else if (event.key === "s" && state.column >= 0) sortBy(columns[state.column]);
    else if (event.key === "f" && state.column >= 0) { filterOn(columns[state.column]); filterPanel(); }
    else if (event.key === "r" && state.row >= 0) formPanel(state.row);
    else return;
    event.preventDefault();
  });

  function sortBy(v, down) {
    const was = state.sort && state.sort.name === v.name ? state.sort : null;
    if (down === undefined) state.sort = !was ? { name: v.name, down: false } : was.down ? null : { name: v.name, down: true };
    else state.sort = down === null ? null : { name: v.name, down: down };
    choose();
  }

  // The panel beside the table.
  function panel(name, title, ...inside) {
    state.side = name;
    for (const one of ["filters", "columns", "keys"]) $(one).setAttribute("aria-expanded", String(one === name));
    side.replaceChildren(el("button", { class: "close", onclick: closePanel, "aria-label": "Close" }, "\u2715"), el("h2", { tabindex: -1 }, title), ...inside.flat(9).filter(Boolean));
    side.hidden = false;
    side.scrollTop = 0;
    side.querySelector("h2").focus();
    go(state.row, state.column);
  }
  function closePanel() {
    side.hidden = true;
    state.side = null;
    for (const one of ["filters", "columns", "keys"]) $(one).setAttribute("aria-expanded", "false");
    draw();
    grid.focus();
  }
  addEventListener("keydown", event => { if (event.key === "Escape" && !side.hidden) { closePanel(); event.preventDefault(); } });

  // The steps of one cell, as `mavik why` tells them.
  const conditionWords = (c, row) => "`" + c.text + "` is " + ["false", "true", "unknown", "(private)"][c.truth[row]] + " (" +
    c.uses.map(name => name + " is " + (byName.has(name) ? said(byName.get(name), row) : "(private)")).join(", ") + ")";
  const step = (name, value, text, path) => ({ step: name, value: value, words: text, path: path });
  function stepsOf(v, row) {
    const at = exportOf[row], name = exports[at].name, steps = [], touched = v.touched.get(row) || [];
    if (v.absent.includes(name)) steps.push(step("wave", "", "not asked in wave " + waves[waveOf[row]].name, v.path));
    else if (v.raw.length) for (const r of v.raw) {
      const of = r.of[name];
      if (!of) continue;
      if (!r.index[row]) { steps.push(step("cell", "", "no record of `" + of.from + "` goes with this one", v.path)); continue; }
      const k = r.index[row] - 1;
      steps.push(step("cell", r.cells[k], of.file + ":" + r.line[row] + ", column \u201c" + of.column + "\u201d", of.path));
      steps.push(step("decoded", r.decoded.has(k) ? r.decoded.get(k) : r.cells[k], words[r.words[k]], r.paths[k]));
    } else {
      const first = touched.length ? touched[0] : null;
      steps.push(step("made", first ? v.done[first[0]].was[v.done[first[0]].from[first[1]]] : shownAt(v, row), v.sentence, v.path));
    }
    let asked = false;
    for (const [k, i] of touched) {
      const e = v.done[k];
      if (e.kind === "universe") asked = true;
      if (!e.told) continue;
      const more = e.kind === "universe" ? conditionWords(conditions[v.universe[at]], row) : "";
      steps.push(step(e.kind, e.now[e.to[i]], e.words + more, e.path));
    }
    const u = v.universe[at];
    if (u >= 0 && !asked) {
      const out = isGap(v, row) && reasonName[reasonAt(v, row)] === "not_asked";
      steps.push(step("universe", "", (out ? "not asked: " : "") + conditionWords(conditions[u], row), v.universe_path));
    }
    const gap = isGap(v, row);
    steps.push(step("value", gap ? "" : v.value[v.state[row]], gap ? "empty: " + reasonLabel[reasonAt(v, row)] : v.storage === "coded" ? v.text[v.state[row]] : "", v.path));
    return steps;
  }
  function storyNode(v, row) {
    const from = v.earlier ? v.earlier[row] - 2 : row;
    const inputs = v.uses.map(name => byName.has(name) ? (from >= 0 ? el("details", { class: "from" }, el("summary", null, "from ", el("code", null, name), ": ", said(byName.get(name), from)), storyNode(byName.get(name), from)) :
      el("p", { class: "about" }, "from ", el("code", null, name), v.earlier && v.earlier[row] === 1 ? ": an earlier record that is not on this page" : ": no earlier record")) : el("p", { class: "about" }, "from ", el("code", null, name), ": (private)"));
    const steps = stepsOf(v, row).filter(s => s.step !== "universe" || s.value || isGap(v, row));
    return el("div", null, inputs, el("table", null, el("thead", null, el("tr", null, ["Step", "What it is", "Why"].map(t => el("th", { scope: "col" }, t)))),
      el("tbody", null, steps.map(s => el("tr", null, el("th", { scope: "row" }, s.step), el("td", null, s.step === "cell" ? "\u201c" + s.value + "\u201d" : s.value || "\u2013"),
        el("td", null, coded(s.words), lines.has(s.path) && s.step !== "value" ? el("div", { class: "about" }, lines.get(s.path)) : ""))))));
  }
  function storyPanel(v, row) {
    const out = words[droppedOf[row]];
    panel("story", v.name + ", record " + key[keys[row]] + (waves.length > 1 ? ", " + waves[waveOf[row]].label : ""),
      v.label ? el("p", { class: "question" }, v.label) : "",
      el("p", { class: "about" }, exports[exportOf[row]].shown + ":" + lineOf[row]), out ? el("p", { class: "about" }, out) : "", storyNode(v, row),
      el("p", { class: "steps" }, el("button", { onclick: () => variablePanel(v) }, "About " + v.name), el("button", { onclick: () => formPanel(state.row) }, "The record as a form")));
  }

  // A variable: what it is, and how often each answer and gap is among the present rows.
  function countsOf(v) {
    const counts = new Uint32Array(v.value.length + reasonName.length);
    for (const row of rows) counts[v.state[row]] += 1;
    return counts;
  }
  const countRow = (code, label, count) => el("tr", null, el("td", null, code), el("td", null, label), el("td", { class: "n" }, count.toLocaleString("en")));
  function variablePanel(v) {
    const counts = countsOf(v), facts = [], many = 60;
    const fact = (name, value) => { if (value) facts.push(el("div", null, el("dt", null, name), el("dd", null, coded(value)))); };
    fact("Question", [v.asked, v.question].filter(Boolean).join(" "));
    fact("Block", v.block);
    fact("Level", [v.level, v.unit].filter(Boolean).join(", "));
    fact("Range", v.range);
    fact("Asked where", [...new Set(v.universe.filter(u => u >= 0).map(u => conditions[u].text))].join("; in other waves "));
    fact("How it is made", v.made);
    fact("In the codebook", v.where);
    const seen = v.codes ? v.codes.map(c => [c.value, c.label, v.value.indexOf(c.value)]) : v.value.map((x, k) => [x, "", k]);
    for (const k of v.codes ? v.value.keys() : []) if (!v.codes.some(c => c.value === v.value[k])) seen.push([v.value[k], v.text[k], k]);
    const some = v.codes ? seen : seen.filter(s => counts[s[2]] > 0).sort((a, b) => counts[b[2]] - counts[a[2]]);
    const gaps = reasonLabel.map((label, at) => [label, counts[v.value.length + at]]).filter(g => g[1] > 0);
    panel("variable", v.name, v.label ? el("p", { class: "question" }, v.label) : "", el("dl", null, facts),
      el("p", { class: "steps" }, el("button", { onclick: () => { filterOn(v); filterPanel(); } }, "Filter"),
        el("button", { onclick: () => sortBy(v, false) }, "Sort upwards"), el("button", { onclick: () => sortBy(v, true) }, "Sort downwards"),
        state.sort ? el("button", { onclick: () => sortBy(v, null) }, "Do not sort") : "", el("button", { onclick: () => { state.hidden.add(v.name); lay(); closePanel(); } }, "Hide")),
      el("h3", null, "In the present rows"),
      el("table", null, el("thead", null, el("tr", null, el("th", { scope: "col" }, v.codes ? "Code" : "Value"), el("th", { scope: "col" }, v.codes ? "Label" : ""), el("th", { scope: "col" }, "Records"))),
        el("tbody", null, some.slice(0, many).map(s => countRow(s[0].slice(0, 200), s[1], s[2] < 0 ? 0 : counts[s[2]])), gaps.map(g => countRow("", "(" + g[0] + ")", g[1])))),
      some.length > many ? el("p", { class: "about" }, (some.length - many).toLocaleString("en") + " more values") : "");
  }

  // Filters.
  function filterOn(v) {
    if (!state.filters.some(f => f.name === v.name)) state.filters.push({ name: v.name, values: new Set(), reasons: new Set(), words: "", from: "", to: "" });
  }
  function box(label, count, on, change) {
    return el("label", null, el("input", { type: "checkbox", checked: on, onchange: event => { change(event.target.checked); choose(); } }), el("span", null, label), el("span", null, count.toLocaleString("en")));
  }
  function filterCard(f) {
    const v = byName.get(f.name), counts = new Uint32Array(v.value.length + reasonName.length);
    for (let row = 0; row < n; row++) if (state.dropped || words[droppedOf[row]] === "") counts[v.state[row]] += 1;
    const toggle = (set, at) => on => on ? set.add(at) : set.delete(at);
    const typed = (part, kind, label) => el("input", { type: kind, value: f[part], "aria-label": label, oninput: event => { f[part] = event.target.value.trim(); choose(); } });
    const inside = [];
    if (v.storage === "coded") {
      const order = Array.from(v.value.keys());
      order.forEach(at => inside.push(box(both(v, at), counts[at], f.values.has(at), toggle(f.values, at))));
    } else if (v.storage === "number" || v.storage === "date") inside.push(el("div", { class: "span" }, "from", typed("from", "text", v.name + " from"), "to", typed("to", "text", v.name + " to")));
    else inside.push(typed("words", "search", v.name + " contains"));
    reasonLabel.forEach((label, at) => { if (counts[v.value.length + at]) inside.push(box("(" + label + ")", counts[v.value.length + at], f.reasons.has(at), toggle(f.reasons, at))); });
    inside.push(el("button", { onclick: () => { state.filters = state.filters.filter(one => one !== f); choose(); filterPanel(); } }, "Take away"));
    return el("fieldset", { "data-filter": v.name }, el("legend", null, v.name, v.label ? ": " + v.label.slice(0, 40) : ""), inside);
  }
  function filterPanel() {
    const pick = el("select", { "aria-label": "Add a filter on", onchange: event => { if (event.target.value) { filterOn(byName.get(event.target.value)); filterPanel(); } } },
      el("option", { value: "" }, "Add a filter on \u2026"), vars.filter(v => v.shown).map(v => el("option", { value: v.name }, v.name + (v.label ? ": " + v.label.slice(0, 50) : ""))));
    panel("filters", "Filters", el("p", { class: "about" }, "A record is shown where it meets every filter."), state.filters.map(filterCard), pick,
      state.filters.length ? el("p", { class: "steps" }, el("button", { onclick: () => { state.filters = []; choose(); filterPanel(); } }, "Take all away")) : "");
  }

  function columnPanel() {
    const blocks = new Map();
    for (const v of vars) if (v.shown) { const b = v.block || ""; if (!blocks.has(b + (b ? "" : v.name))) blocks.set(b + (b ? "" : v.name), []); blocks.get(b + (b ? "" : v.name)).push(v); }
    const set = (some, on) => { some.forEach(v => on ? state.hidden.delete(v.name) : state.hidden.add(v.name)); lay(); };
    const one = v => el("label", null, el("input", { type: "checkbox", checked: !state.hidden.has(v.name), onchange: event => set([v], event.target.checked) }), el("code", null, v.name), v.label.slice(0, 44));
    const all = vars.filter(v => v.shown);
    panel("columns", "Columns", el("p", { class: "steps" }, el("button", { onclick: () => { set(all, true); columnPanel(); } }, "All"), el("button", { onclick: () => { set(all, false); columnPanel(); } }, "None"),
      el("button", { onclick: () => { set(all, false); set(all.filter(v => v.kept), true); columnPanel(); } }, "The analysis file")),
      el("div", { class: "list" }, [...blocks.values()].map(some => some.length > 1 ? el("fieldset", null, el("legend", null, el("label", null, el("input", {
        type: "checkbox", checked: some.every(v => !state.hidden.has(v.name)), onchange: event => { set(some, event.target.checked); columnPanel(); }
      }), some[0].block)), some.map(one)) : one(some[0]))));
  }

  // A record as a form.
  function formPanel(place) {
    if (place < 0 || place >= rows.length) return;
    state.row = place;
    const row = rows[place], out = words[droppedOf[row]];
    const move = by => () => { formPanel(place + by); go(place + by, state.column); };
    panel("form", "Record " + key[keys[row]] + (waves.length > 1 ? ", " + waves[waveOf[row]].label : ""),
      el("p", { class: "steps" }, el("button", { onclick: move(-1), disabled: place === 0 }, "Previous"), el("button", { onclick: move(1), disabled: place === rows.length - 1 }, "Next"),
        el("span", { class: "about" }, (place + 1).toLocaleString("en") + " of " + rows.length.toLocaleString("en"))),
      el("p", { class: "about" }, exports[exportOf[row]].shown + ":" + lineOf[row]), out ? el("p", { class: "about" }, out) : "",
      el("dl", null, columns.map(v => {
        const raw = rawAt(v, row), mark = markAt(v, row);
        return el("div", null, el("dt", null, el("code", null, v.name), " ", [v.asked, v.question || v.label].filter(Boolean).join(" ")), el("dd", { class: isGap(v, row) ? "gap" : "" },
          mark ? el("span", { class: "mark", title: mark[1] }, mark[0]) : "", isGap(v, row) ? "(" + reasonLabel[reasonAt(v, row)] + ")" : shownAt(v, row), v.raw.length ? el("small", null, "raw: ", raw ? "\u201c" + raw.slice(0, 600) + "\u201d" : "blank") : ""));
      })));
  }

  function keyPanel() {
    const keyed = [["arrows", "move from cell to cell"], ["Page up, Page down", "a screen up or down"], ["Home, End", "first or last column; with Ctrl first or last record"], ["Enter", "the story of a cell, the variable of a heading, the record of a key"],
      ["r", "the record as a form"], ["f", "a filter on the column"], ["s", "sort by the column, up, down, not"], ["Escape", "close the panel"]];
    const marks = [["(No answer)", "a gap, with its reason"], ["\u2715", "set aside: the cell held something that was not taken"], ["\u270e", "corrected"], ["\u25cb", "a gap filled from other answers"], ["\u2013", "before a key: the record is dropped"]];
    const table = some => el("table", null, el("tbody", null, some.map(k => el("tr", null, el("th", { scope: "row" }, k[0]), el("td", null, k[1])))));
    panel("keys", "Keys and marks", table(keyed), el("h3", null, "Marks"), table(marks));
  }

  function csv() {
    const quote = text => /[",\n\r]/.test(text) ? "\"" + text.replace(/"/g, "\"\"") + "\"" : text;
    const plain = (v, row) => state.raw && v.raw.length ? rawAt(v, row) : isGap(v, row) ? "" : state.codes || v.storage === "number" ? v.value[v.state[row]] : v.text[v.state[row]];
    return [columns.map(v => quote(v.name)).join(",")].concat(rows.map(row => columns.map(v => quote(plain(v, row))).join(","))).join("\n") + "\n";
  }
  $("save").addEventListener("click", () => {
    const url = URL.createObjectURL(new Blob([csv()], { type: "text/csv" }));
    el("a", { href: url, download: "records.csv" }).click();
    setTimeout(() => URL.revokeObjectURL(url), 1000);
  });

  const press = (id, on) => $(id).setAttribute("aria-pressed", String(on));
  const choice = (a, b, name) => { $(a).addEventListener("click", () => { state[name] = false; press(a, true); press(b, false); draw(); }); $(b).addEventListener("click", () => { state[name] = true; press(a, false); press(b, true); draw(); }); };
  choice("labels", "codes", "codes");
  choice("values", "raws", "raw");
  $("dropped").addEventListener("click", () => { state.dropped = !state.dropped; press("dropped", state.dropped); choose(); });
  const toggled = (name, show) => $(name).addEventListener("click", () => state.side === name ? closePanel() : show());
  toggled("filters", filterPanel);
  toggled("columns", columnPanel);
  toggled("keys", keyPanel);
  lay();

  // For whoever checks this page by script.
  window.page = { rows: () => rows, line: row => lineOf[row], columns: () => columns.map(v => v.name), record: (k, wave, place) => rows.findIndex(r => key[keys[r]] === k && waves[waveOf[r]].name === wave), steps: (name, row) => stepsOf(byName.get(name), row), csv: csv, ready: true };
})();
