// @ts-check
'use strict';
/* Shows the answers that are in the file. It decides nothing about CSS: every value, winner, stage and reason is the library's. */

/**
 * @typedef {[number, number, number, number | null]} Row property, value, answer, the element it comes from
 * @typedef {{sentence: number, belief: number | null, seen: number[], contest: [number, number | null, number, number][], otherwise: number,
 *   otherwise_by: number | null, steps: number[], dropped: number[], off: [number, number, number, number | null][], notes: number[], from: number}} Answer
 * @typedef {{property: number, value: number, important: boolean, at: number, origin: number, selector: number | null,
 *   weight: number[] | null, layer: number | null, conditions: number[]}} Declaration
 * @typedef {{label: number, words: number, at: number, parent: number | null, rows: Row[], edges: number[][], idle: number[][],
 *   pseudos: [number, Row[]][], states: [number, number, number][], parsed: number | null}} Element_
 * @typedef {{frame: string, sentence: string, because: string[], changes: [number, number | null, number, number, number, number][],
 *   pairs: (number | null)[]}} Trial
 * @typedef {{name: string, elements: Element_[], frame: string, plain: string, trial?: Trial, cut?: string, answered?: number, layers: string[], dark?: boolean, seen?: string, viewport: number[]}} Page
 * @typedef {{line: number, at: number, text: number, counts: number[][], reasons: number[], dropped: number | null, wins: number[][]}} InSheet
 * @typedef {{file: string, text: number, page: boolean, declarations: InSheet[], rules: [number, number, number[], number | null][],
 *   notes: [number, number][]}} Sheet
 * @typedef {{code: number, level: number, at: number, sheet: [number, number] | null, element: [number, number] | null, what: number,
 *   effect: number | null, advice: number | null}} Finding
 * @type {{made: string, stages: [string, string][], texts: string[], declarations: Declaration[], answers: Answer[], pages: Page[],
 *   sheets: Sheet[], findings: Finding[], groups: Record<string, number>, first: [number, number, number]}}
 */
let data;
/** The data: JSON, packed as RFC 1952 has it, in base64. @param {string} packed */
async function unpacked(packed) {
  const bytes = Uint8Array.from(atob(packed), (letter) => letter.charCodeAt(0));
  return new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream('gzip'))).json();
}
/** Gives lists of values their names. @param {any} list @param {string} names */
const named = (list, names) => list.map((/** @type {any[]} */ values) => Object.fromEntries(names.split(' ').map((name, i) => [name, values[i]])));
const text = (/** @type {number | null | undefined} */ n) => (n == null ? '' : data.texts[n]);
const main = /** @type {HTMLElement} */ (document.getElementById('main'));
/** What is shown: set by the address alone. */
let shown = { page: 0, element: 0, pseudo: '', property: '' };
/** How the contest is shown. */
let way = { step: -1, guess: false, open: new Set() };
/** What stands beside the page: nothing, the page without its styles, or with the changes. */
let beside = '';
/** The elements that are marked besides the chosen one. */
let marked = /** @type {number[]} */ ([]);
/** What they are marked for. */
let markedFor = '';

/**
 * Makes an element. Texts go in as texts, so that nothing of the page can become markup.
 * @param {string} name
 * @param {Record<string, unknown>} [attributes]
 * @param {...(Node | string | null | undefined | false)} children
 */
function make(name, attributes = {}, ...children) {
  const svg = ['svg', 'circle', 'line', 'text', 'title'].includes(name) && (name !== 'title' || attributes.svg);
  const made = svg ? document.createElementNS('http://www.w3.org/2000/svg', name) : document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) {
    if (key.startsWith('on') && typeof value === 'function') made.addEventListener(key.slice(2), /** @type {EventListener} */ (value));
    else if (key === 'style') Object.assign(/** @type {HTMLElement} */ (made).style, value);
    else if (value !== false && value != null && key !== 'svg') made.setAttribute(key, value === true ? '' : String(value));
  }
  made.append(...children.filter((c) => c !== null && c !== undefined && c !== false).map((c) => /** @type {Node | string} */ (c)));
  return /** @type {HTMLElement} */ (made);
}

/** A text with what is between back ticks as code. @param {string} sentence */
function prose(sentence) {
  const parts = sentence.split('`');
  return parts.map((part, i) => (i % 2 && i < parts.length - 1 ? make('code', {}, part) : part));
}

/** A colour to look at, where a value is one. @param {string} value */
function swatch(value) {
  const color = /^(rgb|rgba|hsl|hwb|lab|lch|oklab|oklch|color)\(/.test(value) && CSS.supports('color', value);
  return color ? make('span', { class: 'swatch', style: { background: value }, 'aria-hidden': 'true' }) : null;
}

/** The address of an answer. @param {number} page @param {number} element @param {string} pseudo @param {string} property */
const address = (page, element, pseudo, property) => `#${page}/${element}${pseudo}/${encodeURIComponent(property)}`;
/** The address of a line of a sheet, by a place FILE:LINE:COLUMN. @param {string} place */
function sheetAddress(place) {
  const found = /^(.*?):(\d+)(?::\d+)?$/.exec(place);
  const sheet = found ? data.sheets.findIndex((s) => s.file === found[1]) : -1;
  return found && sheet >= 0 ? `#sheets/${sheet}/${found[2]}` : null;
}
/** A place, as a link to its line where its sheet is here. @param {string} place */
function placeLink(place) {
  const to = sheetAddress(place);
  const name = place.replace(/^.*\/(?=[^/]*$)/, '');
  return to ? make('a', { href: to, title: place }, name) : make('span', { title: place }, name);
}

/* The page as it is looked at. */

/** The elements of a frame by their numbers. @param {Document} inside @param {Page} page */
function numbered(inside, page) {
  /** @type {Map<number, Element>} */
  const found = new Map();
  const numberOf = (/** @type {Element} */ one) => one.getAttribute('data-element-number');
  /** @type {Element[]} */
  const bare = [];
  const walk = (/** @type {ParentNode} */ root) => {
    for (const one of root.querySelectorAll('*')) {
      const number = numberOf(one);
      if (number === null) bare.push(one);
      else if (!found.has(Number(number))) found.set(Number(number), one);
      if (one.shadowRoot) walk(one.shadowRoot);
    }
  };
  walk(inside);
  // Elements whose tags nobody wrote come right behind the one before them, in document order.
  const all = [...inside.querySelectorAll('*')];
  const numbers = new Map([...found].map(([number, one]) => [one, number]));
  for (const one of bare) {
    const before = numbers.get(all[all.indexOf(one) - 1]);
    const number = before === undefined ? 0 : before + 1;
    const label = page.elements[number] && text(page.elements[number].label);
    if (label !== undefined && !found.has(number) && label.split(/[#.]/)[0] === one.localName) {
      found.set(number, one);
      numbers.set(one, number);
    }
  }
  return found;
}

/**
 * A window onto the page.
 * @param {string} content @param {string} name @param {(number: number) => number | null} pair
 */
function pageWindow(content, name, pair) {
  const page = data.pages[shown.page];
  const [width] = page.viewport;
  const frame = /** @type {HTMLIFrameElement} */ (make('iframe', { sandbox: 'allow-same-origin', title: name, tabindex: '-1', referrerpolicy: 'no-referrer' }));
  // The page inside prefers what its frame has (Media Queries 5, §12.5); nobody else's preference is for it.
  frame.style.colorScheme = page.dark ? 'dark' : 'light';
  const marks = make('div', { 'aria-hidden': 'true' });
  const scaled = make('div', { class: 'scaled' }, frame, marks);
  const box = make('div', { class: 'window' }, scaled);
  /** @type {Map<number, Element>} */
  let elements = new Map();
  const numberOf = (/** @type {EventTarget | null} */ target) => {
    const at = /** @type {Element | null} */ (target)?.closest?.('[data-element-number]');
    return at ? Number(at.getAttribute('data-element-number')) : null;
  };
  const draw = (/** @type {number | null} */ near = null) => {
    marks.replaceChildren();
    const one = (/** @type {number | null} */ number, /** @type {string} */ kind) => {
      const element = number === null ? undefined : elements.get(number);
      if (!element || number === 0) return;
      const at = element.getBoundingClientRect();
      const size = { left: `${at.left - 4}px`, top: `${at.top - 4}px`, width: `${at.width + 8}px`, height: `${at.height + 8}px` };
      marks.append(make('div', { class: `mark ${kind}`, style: size }));
    };
    marked.forEach((number) => one(pair(number), 'also'));
    if (near !== null) one(near, 'near');
    one(pair(shown.element), '');
  };
  const fit = () => {
    const scale = Math.min(1, box.clientWidth / width) || 1;
    const most = Math.min(460, Math.max(260, innerHeight * 0.45));
    const whole = frame.contentDocument?.body ? Math.max(frame.contentDocument.documentElement.offsetHeight, frame.contentDocument.body.scrollHeight) * scale : most;
    const high = Math.min(most, Math.max(110, whole + 2));
    Object.assign(frame.style, { width: `${width}px`, height: `${high / scale}px` });
    scaled.style.transform = `scale(${scale})`;
    box.style.height = `${high}px`;
    draw();
  };
  // The chosen element comes into sight in its frame; the page around stays where it is.
  const bring = (/** @type {ScrollLogicalPosition} */ block) => {
    const [left, top] = [scrollX, scrollY];
    elements.get(pair(shown.element) ?? -1)?.scrollIntoView({ block, behavior: 'instant' });
    scrollTo({ left, top, behavior: 'instant' });
    draw();
  };
  frame.addEventListener('load', () => {
    const inside = frame.contentDocument;
    if (!inside) return;
    elements = numbered(inside, page);
    const own = (/** @type {Event} */ event) => numberOf(event.composedPath?.()[0] ?? event.target);
    inside.addEventListener('pointermove', (event) => draw(own(event)));
    inside.addEventListener('click', (event) => {
      event.preventDefault();
      const number = own(event);
      const chosen = number === null ? -1 : page.elements.findIndex((_, n) => pair(n) === number);
      if (chosen >= 0) choose(chosen);
    }, true);
    inside.addEventListener('submit', (event) => event.preventDefault(), true);
    inside.addEventListener('scroll', () => draw(), true);
    fit();
    // What is chosen is where one looks.
    if (shown.element) bring('center');
  });
  // Sheets are kept once: their texts stand here and in their own view.
  frame.srcdoc = content.replace(/report-sheet:(\d+)/g, (_, number) => `data:text/css;charset=utf-8,${encodeURIComponent(text(Number(number))).replace(/'/g, '%27')}`);
  new ResizeObserver(() => requestAnimationFrame(fit)).observe(box);
  // How high it may be goes by the window.
  const refit = () => {
    if (!box.isConnected) return removeEventListener('resize', refit);
    requestAnimationFrame(fit);
  };
  addEventListener('resize', refit);
  return { box, redraw: () => draw(), find: (/** @type {string} */ selector) => {
    try {
      return [...elements].filter(([, element]) => element.matches(selector)).map(([number]) => number);
    } catch {
      return [];
    }
  }, scroll: () => bring('nearest') };
}

/** The windows that are shown, and for what: they stay while the address changes. */
let stage = { key: '', node: /** @type {HTMLElement | null} */ (null), windows: /** @type {ReturnType<typeof pageWindow>[]} */ ([]) };

/** The page, and what stands beside it. */
function pageStage() {
  const page = data.pages[shown.page];
  const key = `${shown.page} ${beside}`;
  if (stage.key === key && stage.node) {
    stage.windows.forEach((w) => w.scroll());
    return stage.node;
  }
  const same = (/** @type {number} */ n) => n;
  const first = pageWindow(page.frame, `The page ${page.name}`, same);
  const figures = [make('figure', {}, make('figcaption', {}, `${page.name}, as it is${page.seen ? `, ${page.seen}` : ''}`), first.box)];
  const windows = [first];
  if (beside === 'plain') {
    windows.push(pageWindow(page.plain, `The page ${page.name} without its own styles`, same));
    figures.push(make('figure', {}, make('figcaption', {}, 'without its own styles'), windows[1].box));
  } else if (beside === 'trial' && page.trial) {
    const { pairs, sentence } = page.trial;
    windows.push(pageWindow(page.trial.frame, `The page ${page.name} with the changes`, (n) => pairs[n] ?? null));
    figures.push(make('figure', {}, make('figcaption', {}, 'with the changes: ', ...prose(sentence)), windows[1].box));
  }
  const walk = (/** @type {string} */ name, /** @type {() => number} */ to) =>
    make('button', { type: 'button', onclick: () => { const next = to(); if (next >= 0) choose(next, true); } }, name);
  const parentOf = (/** @type {number} */ n) => page.elements[n]?.parent ?? -1;
  const siblings = () => page.elements.flatMap((e, n) => (e.parent === page.elements[shown.element].parent ? [n] : []));
  const beyond = (/** @type {number} */ by) => { const all = siblings(); return all[all.indexOf(shown.element) + by] ?? -1; };
  const choices = [['', 'nothing'], ['plain', 'the page without its styles'], ...(page.trial ? [['trial', 'the page with the changes']] : [])];
  const radios = choices.map(([value, name]) => make('label', {}, make('input', { type: 'radio', name: 'beside', value, checked: value === beside,
    onchange: () => { beside = value; render(); } }), ` ${name}`));
  const controls = make('div', { class: 'walk' }, walk('Out', () => parentOf(shown.element)), walk('In', () => page.elements.findIndex((e) => e.parent === shown.element)),
    walk('Before', () => beyond(-1)), walk('Next', () => beyond(1)), make('fieldset', {}, make('legend', {}, 'Beside it:'), ...radios));
  const node = make('section', { class: 'stage', 'aria-label': 'The page' },
    make('p', { class: 'quiet' }, 'Point at something in the page to see why it looks as it does, or walk with the buttons below it.'),
    make('div', { class: `frames${figures.length > 1 ? ' two' : ''}` }, ...figures), controls);
  stage = { key, node, windows };
  return node;
}

/** Chooses an element: the same property of it where it has that, else its most contested one. @param {number} element @param {boolean} [keep] */
function choose(element, keep = false) {
  const rows = data.pages[shown.page].elements[element].rows;
  const same = rows.find((row) => text(row[0]) === shown.property);
  const most = [...rows].sort((a, b) => data.answers[b[2]].contest.length - data.answers[a[2]].contest.length)[0];
  const property = text((same ?? most)?.[0]) || 'color';
  location.hash = address(shown.page, element, '', property);
  if (keep) requestAnimationFrame(() => /** @type {HTMLElement | null} */ (document.activeElement)?.focus());
}

/* The contest. */

/** What a contender says and by whom. @param {Declaration} d */
function who(d) {
  const said = `${text(d.property)}: ${text(d.value)}${d.important ? ' !important' : ''}`;
  const origin = text(d.origin);
  const name = d.selector === null ? (origin === 'HTML attribute' ? 'HTML attribute' : 'style attribute') : text(d.selector);
  const weight = d.weight ? ` (${d.weight.join(', ')})` : '';
  const more = [d.layer === null ? '' : `layer ${text(d.layer)}`, origin === 'author' || origin === 'HTML attribute' ? '' : origin, ...d.conditions.map(text)];
  return [make('code', { class: 'said' }, said), make('span', { class: 'by' }, make('code', {}, name), `${weight} `, placeLink(text(d.at)), ...more.filter(Boolean).flatMap((m) => [', ', ...prose(m)]))];
}

/** What is open where those that are off are shown. */
const OFF = -1;

/** The stages as columns and the contenders as streams. @param {Answer} answer @param {string} value */
function contest(answer, value) {
  const all = answer.contest.map(([declaration, stageOut, reason, computed]) => ({ d: data.declarations[declaration], out: stageOut, reason: text(reason), computed: text(computed) }));
  const order = [...all].sort((a, b) => (a.out ?? 99) - (b.out ?? 99));
  const out = data.stages.map((_, i) => all.filter((c) => c.out === i).length);
  const deciding = out.flatMap((n, i) => (n ? [i] : []));
  const last = way.step < 0 || way.step > deciding.length ? 99 : deciding[way.step - 1] ?? -1;
  const columns = ['minmax(13rem, 19rem)', ...out.map((n) => (n ? 'minmax(8.5rem, 1fr)' : '2.4rem')), 'minmax(9rem, 16rem)'];
  const grid = make('div', { class: 'contest', style: { gridTemplateColumns: columns.join(' ') } });
  // Of many that go out at one stage, the first two stand for the others.
  const folded = new Set(deciding.filter((s) => out[s] > 5 && !way.open.has(s)));
  /** @type {{c: typeof all[0] | null, stage: number}[]} */
  const rows = [];
  for (const [i, c] of order.entries()) {
    const before = order.slice(0, i).filter((o) => o.out === c.out).length;
    if (c.out !== null && folded.has(c.out) && before >= 2) {
      if (before === 2) rows.push({ c: null, stage: c.out });
    } else rows.push({ c, stage: c.out ?? 99 });
  }
  // What is off stands above: it does not reach the first stage.
  const off = answer.off.length > 4 && !way.open.has(OFF) ? answer.off.slice(0, 2) : answer.off;
  const above = off.length + (off.length < answer.off.length ? 1 : 0);
  off.forEach(([what, at, why, selector], i) => {
    const row = { gridRow: `${i + 1}` };
    grid.append(make('div', { class: 'who', style: { ...row, gridColumn: '1' } }, make('code', { class: 'said' }, text(what)), make('span', { class: 'by' }, selector === null ? 'style attribute ' : make('code', {}, text(selector)), ' ', placeLink(text(at)))),
      make('div', { class: 'stream asleep', style: { ...row, gridColumn: '2 / 3' } }),
      make('div', { class: 'reason asleep', style: { ...row, gridColumn: '2 / -1' } }, make('span', { class: 'hidden' }, 'off: '), ...prose(text(why))));
  });
  if (off.length < answer.off.length) {
    grid.append(make('button', { type: 'button', class: 'fold', style: { gridRow: `${above}` }, onclick: () => { way.open.add(OFF); render(); } }, `Show ${answer.off.length - off.length} more that are off`));
  }
  const base = above + rows.length + 1;
  let left = all.length;
  if (rows.length) data.stages.forEach(([name, about], i) => {
    const from = above + (rows.findIndex((r) => r.stage >= i) + 1 || rows.length);
    grid.append(make('div', { class: 'band', 'aria-hidden': 'true', style: { gridColumn: `${i + 2}`, gridRow: `${from} / ${base}` } }));
    const after = left - out[i];
    const count = out[i] ? make('span', {}, `${left} → ${after}`) : null;
    grid.append(make('button', { type: 'button', class: `band base ${out[i] ? 'open' : 'shut'}`, title: about, 'aria-expanded': 'false', style: { gridColumn: `${i + 2}`, gridRow: `${base}` },
      onclick: (/** @type {Event} */ event) => explain(/** @type {HTMLElement} */ (event.currentTarget), name, about) }, name, count));
    left = after;
  });
  rows.forEach(({ c, stage: at }, i) => {
    const row = { gridRow: `${above + i + 1}` };
    if (!c) {
      const more = out[at] - 2;
      grid.append(make('button', { type: 'button', class: 'fold', style: row, onclick: () => { way.open.add(at); render(); } }, `Show ${more} more`));
      if (at <= last) {
        if (at > 0) grid.append(make('div', { class: 'stream', style: { ...row, gridColumn: `2 / ${at + 2}` } }));
        grid.append(make('div', { class: 'drop', style: { ...row, gridColumn: `${at + 2}` } }), make('div', { class: 'reason', style: { ...row, gridColumn: `${at + 2} / -1` } }, `${more} more go out here`));
      } else if (last >= 0) grid.append(make('div', { class: 'stream', style: { ...row, gridColumn: `2 / ${last + 3}` } }));
      return;
    }
    const won = c.out === null;
    grid.append(make('div', { class: `who${won ? ' won' : ''}`, style: { ...row, gridColumn: '1' } }, ...who(c.d)));
    const end = won ? data.stages.length : /** @type {number} */ (c.out);
    if (end > last) {
      // It is still in: the stream goes on to where one has stepped.
      if (last >= 0) grid.append(make('div', { class: 'stream', style: { ...row, gridColumn: `2 / ${last + 3}` } }));
      return;
    }
    if (won && way.step >= 0 && way.step <= deciding.length) {
      grid.append(make('div', { class: 'stream', style: { ...row, gridColumn: `2 / ${last + 3}` } }));
      return;
    }
    if (won) {
      // A long value, or that of a shorthand, is told by what it comes to.
      const written = text(c.d.value);
      const short = written.length < 25 && text(c.d.property) === shown.property;
      grid.append(make('div', { class: 'stream won', style: { ...row, gridColumn: `2 / ${end + 2}` } }),
        make('div', { class: 'pool', style: { ...row, gridColumn: `${end + 2}` } }, make('strong', {}, swatch(value), short ? written : value || 'no value'), make('span', {}, value === written ? 'wins' : short ? value : 'from what is written')),
        make('p', { class: 'hidden' }, 'wins: ', ...prose(c.reason)));
      return;
    }
    if (end > 0) grid.append(make('div', { class: 'stream', style: { ...row, gridColumn: `2 / ${end + 2}` } }));
    grid.append(make('div', { class: 'drop', style: { ...row, gridColumn: `${end + 2}` } }),
      make('div', { class: 'reason', style: { ...row, gridColumn: `${end + 2} / -1` } }, make('span', { class: 'hidden' }, `goes out at ${data.stages[end][0]}: `), ...prose(c.reason)));
  });
  return { grid, deciding };
}

/** Tells what a stage compares, below the contest. @param {HTMLElement} button @param {string} name @param {string} about */
function explain(button, name, about) {
  const told = document.getElementById('stage-told');
  const open = button.getAttribute('aria-expanded') === 'true';
  document.querySelectorAll('.band.base').forEach((b) => b.setAttribute('aria-expanded', 'false'));
  button.setAttribute('aria-expanded', String(!open));
  told?.replaceChildren(...(open ? [] : [make('strong', {}, `${name}: `), about]));
}

/** The contest with its tools, or the guess. @param {Answer} answer @param {string} value */
function contestSection(answer, value) {
  const many = answer.contest.length;
  const off = answer.off.length ? `, ${answer.off.length} ${answer.off.length === 1 ? 'is' : 'are'} off` : '';
  const title = (['Nothing that is on wants to set it', 'One declaration wants to set it'][many] ?? `${many} declarations want to set it`) + off;
  const section = make('section', { 'aria-labelledby': 'contest-title' }, make('h2', { id: 'contest-title' }, title));
  if (way.guess) {
    const ways = answer.contest.map((c, i) => ({ i, d: data.declarations[c[0]] })).sort((a, b) => (text(a.d.at) < text(b.d.at) ? -1 : 1));
    const verdict = make('p', { class: 'verdict', role: 'status' });
    const tried = (/** @type {number} */ i) => {
      const [, out, reason] = answer.contest[i];
      if (out === null) { way.guess = false; render(); document.getElementById('contest-title')?.append(' — right.'); } else {
        verdict.replaceChildren(`Not this one: it goes out at ${data.stages[out][0]}, since `, ...prose(text(reason)), '.');
      }
    };
    section.append(make('p', {}, 'Which one wins?'), make('ul', { class: 'guess' }, ...ways.map(({ i, d }) => make('li', {}, make('button', { type: 'button', onclick: () => tried(i) },
      make('code', {}, `${text(d.property)}: ${text(d.value)}${d.important ? ' !important' : ''}`), ` ${d.selector === null ? text(d.origin) : text(d.selector)}${d.layer === null ? '' : `, layer ${text(d.layer)}`}, ${text(d.at)}`)))), verdict,
      make('p', { class: 'tools' }, make('button', { type: 'button', onclick: () => { way.guess = false; render(); } }, 'Show me')));
    return section;
  }
  const { grid, deciding } = contest(answer, value);
  const steps = deciding.length + 1;
  const go = (/** @type {number} */ to) => { way.step = to > steps ? -1 : to; render(); document.getElementById(to > 0 && to <= steps ? 'step-next' : 'step')?.focus(); };
  const tools = make('p', { class: 'tools' });
  if (many > 1) {
    if (way.step < 0) {
      tools.append(make('button', { type: 'button', id: 'step', onclick: () => go(1) }, 'Step through'), make('button', { type: 'button', onclick: () => { way.guess = true; render(); } }, 'Guess first'));
    } else {
      const at = deciding[way.step - 1];
      const left = answer.contest.filter((c) => c[1] === null || c[1] > (at ?? 99)).length;
      const name = at === undefined ? 'One is left.' : `After ${data.stages[at][0]}: ${left} of ${many} ${left === 1 ? 'is' : 'are'} left.`;
      tools.append(make('button', { type: 'button', disabled: way.step < 2, onclick: () => go(way.step - 1) }, 'Back'), make('button', { type: 'button', id: 'step-next', onclick: () => go(way.step + 1) }, way.step < steps ? 'Next stage' : 'Whole contest'), make('span', { role: 'status' }, name));
    }
  }
  section.append(grid, make('p', { id: 'stage-told', role: 'status' }), tools);
  if (answer.contest.length) {
    const by = answer.otherwise_by === null ? '' : `, ${text(answer.otherwise_by)}`;
    section.append(make('p', {}, many === 1 ? 'Without it: ' : 'Without all of them: ', swatch(text(answer.otherwise)), make('code', {}, text(answer.otherwise) || 'no value'), ...prose(by), '.'));
  }
  return section;
}

/* The lineage. */

/** The way from the root to the element. @param {number} element @param {string} property @param {number | null} giver */
function lineage(element, property, giver) {
  const page = data.pages[shown.page];
  const path = [];
  for (let n = /** @type {number | null} */ (element); n !== null; n = page.elements[n].parent) path.unshift(n);
  const from = giver ?? element;
  const at = path.indexOf(from);
  const items = path.map((n, i) => {
    const row = page.elements[n].rows.find((r) => text(r[0]) === property);
    const value = row ? text(row[1]) : '';
    const answer = row && data.answers[row[2]];
    const part = n === from && (giver !== null || (answer && answer.from === 0)) ? 'it starts here' : n === element && giver !== null ? 'arrives here' : i > at && giver !== null ? 'handed on' : answer && answer.from === 0 ? 'sets its own; it stops above what is declared here' : '';
    return make('li', { class: giver !== null && i >= at ? 'on' : n === from ? 'on' : '' },
      make('a', { href: address(shown.page, n, '', row ? property : text(page.elements[n].rows[0]?.[0]) || 'color'), 'aria-current': n === element && 'true' }, make('code', {}, text(page.elements[n].label))),
      make('span', {}, swatch(value), value ? make('code', {}, value) : make('span', { class: 'quiet' }, 'the initial value')), make('span', { class: 'part' }, part));
  });
  return make('section', { 'aria-labelledby': 'lineage-title' }, make('h2', { id: 'lineage-title' }, 'From the root to here'), make('ol', { class: 'lineage' }, ...items));
}

/* The element. */

/** How many contenders are left after each stage. @param {Answer} answer */
function strip(answer) {
  const all = answer.contest.length;
  if (!all) return null;
  const left = data.stages.map((_, i) => answer.contest.filter((c) => c[1] === null || c[1] > i).length);
  const bars = [all, ...left].map((n, i, list) => make('i', { class: i === list.length - 1 ? 'end' : '', style: { height: `${Math.max(12, (n / all) * 100)}%` } }));
  return make('span', { class: 'left', role: 'img', 'aria-label': all === 1 ? '1 contender' : `${all} contenders` }, ...bars);
}

/** Values as links to their contests. @param {number} element @param {string} pseudo @param {Row[]} rows */
function values(element, pseudo, rows) {
  /** @type {Map<string, Row[]>} */
  const groups = new Map();
  for (const row of rows) {
    const group = text(data.groups[row[0]]) || 'Custom properties';
    groups.set(group, [...(groups.get(group) ?? []), row]);
  }
  return make('div', { class: 'groups' }, ...[...groups].sort((a, b) => (a[0] < b[0] ? -1 : 1)).map(([group, list]) => make('div', { class: 'values' }, make('h3', {}, group), ...list.map((row) => {
    const [property, value, number, giver] = row;
    const answer = data.answers[number];
    const winner = answer.contest.find((c) => c[1] === null);
    const d = winner && data.declarations[winner[0]];
    const by = giver !== null ? `from ${text(data.pages[shown.page].elements[giver].label)}` : d ? `${d.selector === null ? text(d.origin) : text(d.selector)}, ${text(d.at).replace(/^.*\/(?=[^/]*$)/, '')}` : 'initial value';
    const here = shown.element === element && shown.pseudo === pseudo && shown.property === text(property);
    return make('a', { href: address(shown.page, element, pseudo, text(property)), 'aria-current': here && 'true' },
      make('span', {}, make('code', {}, text(property)), ': ', swatch(text(value)), make('code', {}, text(value) || 'no value')), strip(answer), make('span', { class: 'by' }, by));
  }))));
}

/** Everything about an element. @param {Element_} element */
function elementSections(element) {
  const n = shown.element;
  const parts = [make('section', { 'aria-labelledby': 'values-title' }, make('h2', { id: 'values-title' }, `All that is set on ${text(element.label)}`), values(n, '', element.rows))];
  for (const [name, rows] of element.pseudos ?? []) {
    parts.push(make('section', {}, make('h2', {}, `Its ${text(name)}`), values(n, text(name), rows)));
  }
  const head = make('tr', {}, make('td'), ...['top', 'right', 'bottom', 'left'].map((s) => make('th', { scope: 'col' }, s)));
  const edges = ['margin', 'border', 'padding'].map((name, i) => make('tr', {}, make('th', { scope: 'row' }, name), ...element.edges[i].map((v) => make('td', {}, make('code', {}, text(v))))));
  parts.push(make('section', {}, make('h2', {}, 'Its edges'), make('div', { class: 'wide' }, make('table', {}, make('thead', {}, head), make('tbody', {}, ...edges)))));
  if (element.states?.length) {
    const rows = element.states.map(([state, property, value]) => make('tr', {}, make('th', { scope: 'row' }, text(state)), make('td', {}, make('code', {}, text(property))), make('td', {}, swatch(text(value)), make('code', {}, text(value)))));
    parts.push(make('section', {}, make('h2', {}, 'As a link in its states'), make('p', { class: 'quiet' }, 'What is different from the link as it is, unvisited and untouched.'), make('div', { class: 'wide' }, make('table', {}, make('tbody', {}, ...rows)))));
  }
  if (element.idle?.length) {
    parts.push(make('section', {}, make('h2', {}, 'Set without effect'), make('ul', { class: 'steps' }, ...element.idle.map(([p, v, at, why]) => make('li', {}, make('code', {}, `${text(p)}: ${text(v)}`), ' at ', placeLink(text(at)), ': ', ...prose(text(why)), '.')))));
  }
  return parts;
}

/** A button that copies a text. @param {string} name @param {string} copied */
function copy(name, copied) {
  return make('button', { type: 'button', title: copied, onclick: async (/** @type {Event} */ event) => {
    const button = /** @type {HTMLElement} */ (event.currentTarget);
    try {
      await navigator.clipboard.writeText(copied);
      button.textContent = 'Copied';
    } catch {
      button.textContent = copied;
    }
    setTimeout(() => { button.textContent = name; }, 2500);
  } }, name);
}

/** The view of an element and a property. */
function elementView() {
  const page = data.pages[shown.page];
  const element = page.elements[shown.element] ?? page.elements[0];
  const rows = shown.pseudo ? element.pseudos?.find((p) => text(p[0]) === shown.pseudo)?.[1] ?? [] : element.rows;
  const row = rows.find((r) => text(r[0]) === shown.property) ?? rows[0];
  const nodes = [pageStage()];
  const count = marked.length === 1 ? 'The element' : `All ${marked.length} elements`;
  if (markedFor) nodes.push(make('p', { class: 'aside' }, `${count} on which `, make('code', {}, markedFor), marked.length === 1 ? ' wins is marked in the page. ' : ' wins are marked in the page. ', make('a', { href: address(shown.page, shown.element, shown.pseudo, shown.property) }, 'Take the marks off')));
  const words = text(element.words) ? `, “${text(element.words)}”` : '';
  const where = make('p', { class: 'where' }, make('code', {}, `${text(element.label)}${shown.pseudo}`), words, `, @${shown.element}, `, text(element.at));
  if (!row && shown.element >= (page.answered ?? Infinity)) {
    const command = `clear-cascade values ${page.name} @${shown.element}`;
    nodes.push(make('h1', {}, `The answers for ${text(element.label)} are not in this report.`), where, make('p', { class: 'tools' }, copy('Copy the command that gives them', command)));
  } else if (!row) {
    nodes.push(make('h1', {}, `Nobody sets anything on ${text(element.label)}.`), where);
  } else {
    const answer = data.answers[row[2]];
    const property = text(row[0]);
    shown.property = property;
    nodes.push(make('h1', { id: 'answer' }, ...prose(text(answer.sentence))), where);
    if (answer.belief !== null) nodes.push(make('p', { class: 'aside' }, ...prose(text(answer.belief))));
    for (const seen of answer.seen ?? []) nodes.push(make('p', { class: 'aside' }, ...prose(text(seen))));
    if (answer.contest.length || answer.off.length) nodes.push(contestSection(answer, text(row[1])));
    if (row[3] !== null && !answer.contest.length) {
      const giver = page.elements[row[3]];
      nodes.push(make('p', {}, answer.off.length ? 'Where its value comes from: ' : 'Nothing here wants to set it: ', make('a', { href: address(shown.page, row[3], '', property) }, 'see the contest on ', make('code', {}, text(giver.label))), ', whose value reaches here.'));
    }
    if (answer.steps.length) nodes.push(make('section', {}, make('h2', {}, 'How the value comes about'), make('ol', { class: 'steps' }, ...answer.steps.map((s) => make('li', {}, ...prose(text(s)))))));
    if (answer.dropped?.length) nodes.push(make('section', {}, make('h2', {}, 'Dropped'), make('ul', { class: 'steps' }, ...answer.dropped.map((s) => make('li', {}, ...prose(text(s)))))));
    if (!shown.pseudo) nodes.push(lineage(shown.element, property, row[3]));
    const name = `@${shown.element}${shown.pseudo}`;
    nodes.push(make('p', { class: 'tools' }, copy('Copy the selector', text(element.label) + shown.pseudo), copy('Copy the place', text(element.at)), copy('Copy the command', `clear-cascade why ${page.name} ${name} ${property}`)));
    for (const note of answer.notes ?? []) nodes.push(make('p', { class: 'quiet' }, ...prose(text(note))));
  }
  if (element.parsed !== null) nodes.push(make('p', { class: 'aside' }, ...prose(text(element.parsed))));
  if (page.trial && beside === 'trial') nodes.push(trialSection(page.trial));
  nodes.push(...elementSections(element));
  if (page.cut) nodes.push(make('p', { class: 'quiet' }, page.cut));
  return nodes;
}

/** What the changes change. @param {Trial} trial */
function trialSection(trial) {
  const section = make('section', {}, make('h2', {}, 'With the changes'), make('p', {}, ...prose(trial.sentence)), ...trial.because.map((b) => make('p', { class: 'quiet' }, ...prose(b))));
  const rows = trial.changes.slice(0, 200).map(([element, pseudo, property, before, after, by]) => make('tr', {},
    make('th', { scope: 'row' }, make('a', { href: address(shown.page, element, '', text(property)) }, make('code', {}, text(data.pages[shown.page].elements[element].label) + text(pseudo)))),
    make('td', {}, make('code', {}, text(property))), make('td', {}, swatch(text(before)), make('code', {}, text(before) || 'none')), make('td', {}, swatch(text(after)), make('code', {}, text(after) || 'none')), make('td', { class: 'quiet' }, ...prose(text(by)))));
  if (rows.length) section.append(make('div', { class: 'wide' }, make('table', {}, make('thead', {}, make('tr', {}, ...['element', 'property', 'before', 'after', 'by'].map((n) => make('th', { scope: 'col' }, n)))), make('tbody', {}, ...rows))));
  if (trial.changes.length > 200) section.append(make('p', { class: 'quiet' }, `and ${trial.changes.length - 200} more`));
  return section;
}

/* Sheets. */

/** What became of a declaration, in a few words. @param {InSheet} one */
function fate(one) {
  const [wins, loses, partly, off] = [0, 1, 2, 3].map((i) => one.counts.reduce((sum, c) => sum + c[i], 0));
  const told = [[wins, 'wins on'], [partly, 'wins in part on'], [loses - partly, 'loses on'], [off, 'is off on']].filter(([n]) => Number(n) > 0);
  if (one.dropped !== null) return { kind: 'dropped', told: 'was dropped' };
  if (!told.length) return { kind: 'nothing', told: 'hits nothing' };
  return { kind: wins + partly ? 'wins' : loses ? 'loses' : 'off', told: told.map(([n, what]) => `${what} ${n}`).join(', ') };
}

/** A property that a declaration wins for on an element: a shorthand is no property that an element has. @param {InSheet} one @param {number} page @param {number} [element] */
function longhand(one, page, element = one.wins[page][0]) {
  const row = data.pages[page].elements[element].rows.find((r) => {
    const winner = data.answers[r[2]].contest.find((c) => c[1] === null);
    return winner && data.declarations[winner[0]].at === one.at;
  });
  return text(row?.[0]) || text(one.text).split(':')[0].trim();
}

/** The view of the sheets, or of one. @param {number} number @param {number} line */
function sheetView(number, line) {
  const list = make('ul', {}, ...data.sheets.map((s, i) => make('li', {}, make('a', { href: `#sheets/${i}`, 'aria-current': i === number && 'true' }, make('code', {}, s.file)), ` ${s.declarations.length} declarations`)));
  const sheet = data.sheets[number];
  if (!sheet) return [make('h1', {}, 'The style sheets'), make('p', { class: 'quiet' }, 'Each with what becomes of every declaration in it.'), list];
  /** @type {Map<number, InSheet[]>} */
  const at = new Map();
  for (const one of sheet.declarations) at.set(one.line, [...(at.get(one.line) ?? []), one]);
  const notes = new Map(sheet.notes.map(([l]) => [l, sheet.notes.filter((n) => n[0] === l)]));
  const lines = text(sheet.text).split(/\r\n|[\n\r\f]/);
  const near = (/** @type {number} */ n) => [...at.keys(), ...notes.keys()].some((l) => Math.abs(l - n) < 3);
  const kept = sheet.page || lines.length > 4000 ? lines.flatMap((_, i) => (near(i + 1) || Math.abs(i + 1 - line) < 4 ? [i + 1] : [])) : lines.map((_, i) => i + 1);
  const items = kept.map((n) => {
    const told = (at.get(n) ?? []).map((one) => {
      const { told: short } = fate(one);
      const reasons = [...one.reasons, ...(one.dropped === null ? [] : [one.dropped])].map((r) => make('li', {}, ...prose(text(r))));
      const wins = one.wins.flatMap((list, page) => list.slice(0, 12).map((e) => make('a', { href: address(page, e, '', longhand(one, page, e)) }, text(data.pages[page].elements[e].label))));
      const own = sheet.declarations.indexOf(one);
      const there = one.wins.findIndex((l) => l.length);
      const mark = there >= 0 ? make('a', { href: `${address(there, one.wins[there][0], '', longhand(one, there))}/mark/${number}/${own}` }, 'mark them in the page') : null;
      const more = one.wins.reduce((sum, l) => sum + Math.max(0, l.length - 12), 0);
      const links = wins.length ? make('li', {}, 'wins on ', ...wins.flatMap((w, i) => (i ? [', ', w] : [w])), more ? `, and ${more} more` : '', '; ', mark) : null;
      const several = (at.get(n) ?? []).length > 1 ? make('code', {}, `${text(one.text)} `) : '';
      return reasons.length || links ? make('details', { class: 'fate' }, make('summary', {}, several, make('b', {}, short)), make('ul', {}, links, ...reasons)) : make('p', { class: 'fate' }, several, make('b', {}, short));
    });
    // What a dropped declaration tells is not told twice.
    const dropped = (at.get(n) ?? []).some((one) => one.dropped !== null);
    const noted = (dropped ? [] : notes.get(n) ?? []).map(([, message]) => make('p', { class: 'fate' }, ...prose(text(message))));
    // What becomes of a declaration is told at it already.
    const wrong = data.findings.filter((f) => f.sheet?.[0] === number && f.sheet[1] === n && !['never-wins', 'property-unknown', 'value-invalid', 'syntax'].includes(text(f.code)));
    noted.push(...wrong.map((f) => make('p', { class: 'fate wrong' }, ...prose(asSentence(f.what) + asSentence(f.advice)))));
    const written = lines[n - 1] ?? '';
    return make('li', { id: `L${n}`, class: n === line ? 'here' : '' }, make('span', { class: 'n' }, String(n)), make('div', {}, make('pre', {}, written.length > 600 ? `${written.slice(0, 600)}…` : written), ...told, ...noted));
  });
  return [make('h1', {}, make('code', {}, sheet.file)), make('p', { class: 'quiet' }, 'Below each declaration, what becomes of it on ', data.pages.length === 1 ? 'the page' : 'all pages together', '; open it to see why.'), make('ol', { class: 'lines' }, ...items), make('h2', {}, 'All sheets'), list];
}

/* The site at a glance. */

/** The kinds of fate, with what they mean. */
const FATES = [['wins', 'wins somewhere'], ['loses', 'always loses'], ['off', 'is off'], ['nothing', 'hits nothing'], ['dropped', 'was dropped']];

/** A text as a sentence. @param {number | null} n */
function asSentence(n) {
  const said = text(n);
  return said && `${said[0].toUpperCase()}${said.slice(1)}${/[.?]$/.test(said) ? '' : '.'} `;
}

/** What is wrong, each with the way to its place. */
function findings() {
  if (!data.findings.length) return [make('h2', {}, 'What is wrong'), make('p', { class: 'quiet' }, 'Nothing is found.')];
  const items = data.findings.map((f) => {
    const to = f.sheet ? `#sheets/${f.sheet[0]}/${f.sheet[1]}` : f.element ? address(f.element[0], f.element[1], '', text(data.pages[f.element[0]].elements[f.element[1]].rows[0]?.[0]) || 'color') : null;
    const place = make('code', {}, text(f.at));
    return make('li', { class: text(f.level) }, ...prose(asSentence(f.what)), make('span', { class: 'quiet' }, ...prose(asSentence(f.effect))), ...prose(asSentence(f.advice)),
      make('small', {}, to ? make('a', { href: to }, place) : place, ` ${text(f.level)}, ${text(f.code)}`));
  });
  return [make('h2', {}, 'What is wrong'), make('p', { class: 'quiet' }, 'Or never has any effect on these pages: the worst first, by file.'), make('ol', { class: 'findings' }, ...items)];
}

/** The view of the whole. */
function siteView() {
  const key = make('p', { class: 'key' }, ...FATES.map(([kind, name]) => make('span', {}, make('i', { class: kind }), name)));
  const rows = data.sheets.filter((s) => s.declarations.length).map((sheet) => {
    const kinds = sheet.declarations.map((d) => fate(d).kind);
    const counts = FATES.map(([kind]) => kinds.filter((k) => k === kind).length);
    const told = FATES.map(([, name], i) => (counts[i] ? `${counts[i]} ${name}` : '')).filter(Boolean).join(', ');
    const bar = make('span', { class: 'bar', role: 'img', 'aria-label': told, title: told }, ...counts.map((n, i) => (n ? make('i', { class: FATES[i][0], style: { flexGrow: String(n) } }) : null)));
    return make('tr', {}, make('th', { scope: 'row' }, make('a', { href: `#sheets/${data.sheets.indexOf(sheet)}` }, make('code', {}, sheet.file))), make('td', { style: { width: '40%' } }, bar), ...counts.map((n) => make('td', {}, n ? String(n) : '')));
  });
  const head = make('tr', {}, make('th', { scope: 'col' }, 'sheet'), make('td'), ...FATES.map(([, name]) => make('th', { scope: 'col' }, name)));
  return [make('h1', {}, 'What the sheets do on ', data.pages.length === 1 ? data.pages[0].name : `${data.pages.length} pages`), key,
    make('div', { class: 'wide' }, make('table', {}, make('thead', {}, head), make('tbody', {}, ...rows))),
    ...findings(),
    ...data.pages.filter((p) => p.layers.length).flatMap((p) => [make('h2', {}, 'Layers of ', make('code', {}, p.name)),
      make('p', { class: 'quiet' }, 'The weakest first; among important declarations it is the other way round.'),
      make('ol', { class: 'layers' }, ...[...p.layers.map((l) => make('code', {}, l)), 'styles in no layer'].map((l) => make('li', {}, l)))]),
    ...data.sheets.filter((s) => s.rules.length > 1).flatMap((sheet) => [make('h2', {}, 'The weight of selectors along ', make('code', {}, sheet.file)), weights(sheet)])];
}

/** The weights of a sheet's selectors in written order. @param {Sheet} sheet */
function weights(sheet) {
  const levels = [...new Set(sheet.rules.map((r) => r[2].join(', ')))].sort((a, b) => {
    const [x, y] = [a, b].map((l) => l.split(', ').map(Number));
    return x[0] - y[0] || x[1] - y[1] || x[2] - y[2];
  });
  const lines = text(sheet.text).split('\n').length;
  const [width, step] = [1000, 22];
  const high = levels.length * step + 34;
  const y = (/** @type {string} */ level) => high - 24 - levels.indexOf(level) * step;
  const x = (/** @type {number} */ n) => 80 + ((n - 1) / Math.max(1, lines - 1)) * (width - 100);
  const svg = make('svg', { viewBox: `0 0 ${width} ${high}`, role: 'img', 'aria-label': `${sheet.rules.length} rules; the heaviest weighs ${levels[levels.length - 1]}` });
  for (const level of levels) svg.append(make('line', { x1: 80, x2: width - 10, y1: y(level), y2: y(level) }), make('text', { x: 0, y: y(level) + 4 }, level));
  for (const [n, name, weight] of sheet.rules) {
    svg.append(make('circle', { cx: x(n), cy: y(weight.join(', ')), r: 5 }, make('title', { svg: true }, `${text(name)} (${weight.join(', ')}), line ${n}`)));
  }
  svg.append(make('text', { x: 80, y: high - 4 }, 'line 1'), make('text', { x: width - 10, y: high - 4, 'text-anchor': 'end' }, `line ${lines}`));
  return svg;
}

/* Finding. */

const find = /** @type {HTMLInputElement} */ (document.getElementById('find'));
const found = /** @type {HTMLElement} */ (document.getElementById('found'));

/** Looks for elements and lines. */
function search() {
  const wanted = find.value.trim();
  const low = wanted.toLowerCase();
  /** @type {[string, string, string][]} */
  const hits = [];
  if (wanted) {
    const place = /^(.*?):(\d+)/.exec(wanted);
    if (place) {
      data.sheets.forEach((s, i) => { if (s.file.endsWith(place[1])) hits.push([`#sheets/${i}/${place[2]}`, `${s.file}:${place[2]}`, 'line']); });
      data.pages.forEach((p, n) => p.elements.forEach((e, i) => { if (text(e.at).includes(`${place[1]}:${place[2]}:`)) hits.push([address(n, i, '', text(e.rows[0]?.[0])), text(e.label), text(e.at)]); }));
    }
    const fits = new Set(stage.windows[0]?.find(wanted) ?? []);
    data.pages.forEach((page, n) => page.elements.forEach((e, i) => {
      if ((n === shown.page && fits.has(i)) || (low.length > 1 && (text(e.label).toLowerCase().includes(low) || text(e.words).toLowerCase().includes(low)))) {
        hits.push([address(n, i, '', text(e.rows.find((r) => text(r[0]) === shown.property)?.[0] ?? e.rows[0]?.[0]) || 'color'), text(e.label), text(e.words) || text(e.at)]);
      }
    }));
    data.sheets.forEach((sheet, s) => sheet.declarations.forEach((d) => {
      if (low.length > 2 && text(d.text).toLowerCase().includes(low)) hits.push([`#sheets/${s}/${d.line}`, text(d.text), text(d.at)]);
    }));
  }
  const all = [...new Map(hits.map((h) => [h[0], h])).values()];
  found.replaceChildren(...all.slice(0, 40).map(([to, name, more]) => make('li', {}, make('a', { href: to, onclick: close }, make('code', {}, name), ' ', make('span', { class: 'quiet' }, more)))));
  found.hidden = !all.length;
  const count = document.getElementById('found-count');
  if (count) count.textContent = wanted ? `${all.length} found` : '';
}

/** Closes the list of what was found. */
function close() {
  found.hidden = true;
}
find.addEventListener('input', search);
find.form?.addEventListener('submit', (event) => {
  event.preventDefault();
  const first = found.querySelector('a');
  if (first) { location.hash = first.hash; close(); }
});
document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape') close();
  const links = [...found.querySelectorAll('a')];
  const at = links.indexOf(/** @type {HTMLAnchorElement} */ (document.activeElement));
  if (found.hidden || !['ArrowDown', 'ArrowUp'].includes(event.key) || (at < 0 && document.activeElement !== find)) return;
  event.preventDefault();
  (links[at + (event.key === 'ArrowDown' ? 1 : -1)] ?? find).focus();
});
document.addEventListener('click', (event) => { if (!(/** @type {Element} */ (event.target)).closest('.search')) close(); });

/* What the address says. */

/** A part of the address, whatever stands there. @param {string | undefined} part */
function decoded(part) {
  try {
    return decodeURIComponent(part ?? '');
  } catch {
    return part ?? '';
  }
}

/** Shows what the address says. */
function render() {
  const parts = location.hash.slice(1).split('/');
  let nodes;
  let current = 'to-page';
  if (parts[0] === 'sheets') {
    current = 'to-sheets';
    nodes = sheetView(parts[1] === undefined ? -1 : Number(parts[1]), Number(parts[2] ?? 0));
  } else if (parts[0] === 'site') {
    current = 'to-site';
    nodes = siteView();
  } else {
    const [page, element, property] = data.first;
    const asked = /^(\d+)(::.*)?$/.exec(decoded(parts[1])) ?? [];
    const known = data.pages[Number(parts[0] || page)] && asked[1] !== undefined;
    shown = known ? { page: Number(parts[0]), element: Number(asked[1]), pseudo: asked[2] ?? '', property: decoded(parts[2]) } : { page, element, pseudo: '', property: text(property) };
    if (!data.pages[shown.page].elements[shown.element]) shown.element = 0;
    const chosen = parts[3] === 'mark' ? data.sheets[Number(parts[4])]?.declarations[Number(parts[5])] : undefined;
    marked = chosen?.wins[shown.page] ?? [];
    markedFor = chosen ? `${text(chosen.text)} at ${text(chosen.at)}` : '';
    nodes = elementView();
  }
  for (const id of ['to-page', 'to-sheets', 'to-site']) {
    const link = document.getElementById(id);
    if (id === current) link?.setAttribute('aria-current', 'page'); else link?.removeAttribute('aria-current');
  }
  document.getElementById('to-page')?.setAttribute('href', address(shown.page, shown.element, shown.pseudo, shown.property || 'color'));
  if (nodes[0] === stage.node && stage.node?.parentNode === main) {
    // The windows stay as they are: what is below them changes.
    while (main.lastChild !== stage.node) main.lastChild?.remove();
    main.append(...nodes.slice(1));
  } else main.replaceChildren(...(data.pages.length > 1 && current === 'to-page' ? [pagesList()] : []), ...nodes);
  document.getElementById(`L${parts[2]}`)?.scrollIntoView({ block: 'center' });
}

/** The pages of the report, to choose from. */
function pagesList() {
  return make('p', {}, ...data.pages.flatMap((p, n) => [n ? ' · ' : '', make('a', { href: address(n, 0, '', 'color'), 'aria-current': n === shown.page && 'page' }, p.name)]));
}

// The address says what is shown: going to the answer is no other view.
document.querySelector('.skip')?.addEventListener('click', (event) => {
  event.preventDefault();
  main.focus();
});

/** Takes the data in and shows what the address says. */
async function start() {
  try {
    data = await unpacked(document.getElementById('data')?.textContent ?? '');
  } catch {
    main.textContent = 'This browser cannot unpack the report: it is older than 2023.';
    return;
  }
  data.declarations = named(data.declarations, 'property value important at origin selector weight layer conditions');
  data.answers = named(data.answers, 'sentence belief seen contest otherwise otherwise_by steps dropped off notes from');
  data.findings = named(data.findings, 'code level at sheet element what effect advice');
  for (const page of data.pages) page.elements = named(page.elements, 'label words at parent rows edges idle pseudos states parsed');
  for (const sheet of data.sheets) {
    sheet.declarations = named(sheet.declarations, 'line at text counts reasons dropped wins');
  }
  if (data.pages.some((p) => p.trial)) beside = 'trial';
  const made = document.getElementById('made');
  if (made) made.textContent = `Made by ${data.made}. Everything is in this file.`;
  addEventListener('hashchange', () => {
    way = { step: -1, guess: false, open: new Set() };
    render();
  });
  render();
}
void start();
