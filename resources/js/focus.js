// After every action the focus is where the work is: on the same control, on the next line where its own is gone, or at what is said.
const KEY = 'baggage-focus';
const ABLE = 'a[href], button:not([disabled]), input:not([type=hidden]):not([disabled]), select:not([disabled]), textarea:not([disabled]), summary, tr[tabindex]';

// What lies in a part that is folded has a place, and yet cannot be seen.
const isSeen = (el) => el && el.checkVisibility({ visibilityProperty: true }) && el.getClientRects().length > 0 && !el.disabled;

// Ways to find an element again, the surest first.
function ways(el) {
    const found = [];
    if (el.id) found.push(`#${CSS.escape(el.id)}`);
    const form = el.closest('form');
    const name = el.getAttribute('name');
    if (form?.hasAttribute('action')) {
        const at = `form[action="${CSS.escape(form.getAttribute('action'))}"]`;
        if (name) found.push(`${at} [name="${CSS.escape(name)}"]${el.matches('button, [type=checkbox], [type=radio]') ? `[value="${CSS.escape(el.value)}"]` : ''}`);
        found.push(`${at} ${el.localName}`);
    }
    const row = el.closest('tr[id]');
    if (el.matches('[data-open]') && row) found.push(`#${CSS.escape(row.id)} [data-open]`);
    if (el.matches('a[href]')) found.push(`a[href="${CSS.escape(el.getAttribute('href'))}"]`);
    return found;
}

// What a button says, whatever the figures in it.
const wordsOn = (el) => el.textContent.replace(/[\d.,]+/g, '').trim();

function placeOf(el) {
    const row = el.closest('tbody tr');
    const table = row?.closest('[id]:not(tr):not(tbody):not(td)');
    const rows = table ? [...table.querySelectorAll('tbody tr')] : [];
    const box = el.closest('form')?.parentElement?.closest('[id]') ?? el.closest('[id]');
    return {
        ways: ways(el),
        table: table && table.id !== 'work' ? table.id : null,
        row: rows.indexOf(row),
        // In a line of its own that opens, the next such line is where the work goes on.
        alike: el.closest('[x-data=reveal]') ? '[x-data=reveal] button[aria-expanded]' : null,
        box: box && box.id !== 'work' ? box.id : null,
        words: el.matches('button') ? wordsOn(el) : null,
        then: el.closest('form')?.dataset.then ?? null,
        y: window.scrollY,
        work: document.getElementById('work')?.scrollTop ?? 0,
        page: window.location.pathname,
        at: Date.now(),
    };
}

function again(place) {
    const isIt = (el) => isSeen(el) && (place.words === null || !el.matches('button') || wordsOn(el) === place.words);
    const one = place.ways.map((way) => { try { return [...document.querySelectorAll(way)].find(isIt); } catch { return null; } }).find(Boolean);
    if (one) return one;
    const rows = place.table ? [...(document.getElementById(place.table)?.querySelectorAll('tbody tr') ?? [])] : [];
    const row = rows[Math.min(place.row, rows.length - 1)];
    const next = row && [...(place.alike ? row.querySelectorAll(place.alike) : []), ...row.querySelectorAll(ABLE)].find(isSeen);
    if (next) return next;
    const box = place.box ? document.getElementById(place.box) : null;
    return box && firstIn(box);
}

export function toTold() {
    const told = [...document.querySelectorAll('#work > .note, #told')].find((el) => el.textContent.trim() !== '') ?? document.getElementById('work');
    if (!told) return;
    if (!told.hasAttribute('tabindex')) told.tabIndex = -1;
    told.focus({ preventScroll: true });
}

document.addEventListener('submit', (event) => {
    const el = event.submitter ?? document.activeElement;
    if (!event.defaultPrevented && el && el !== document.body) sessionStorage.setItem(KEY, JSON.stringify(placeOf(el)));
});
// A link that shows the same page otherwise, as an opened line; and one that keys followed from the work to other work.
document.addEventListener('click', (event) => {
    const link = event.target.closest('a[href]');
    if (!link || event.defaultPrevented || link.origin !== window.location.origin || !link.closest('#work')) return;
    if (link.pathname === window.location.pathname && link.search !== window.location.search) {
        sessionStorage.setItem(KEY, JSON.stringify(placeOf(link)));
    } else if (link.pathname !== window.location.pathname && event.detail === 0 && !link.hash) {
        beginAtWork();
    }
});
document.addEventListener('change', (event) => {
    if (event.target.matches('[data-send]')) sessionStorage.setItem(KEY, JSON.stringify(placeOf(event.target)));
}, true);

// A page that reads itself anew keeps the focus where it is.
export function stay() {
    const el = document.activeElement;
    if (el && el !== document.body) sessionStorage.setItem(KEY, JSON.stringify(placeOf(el)));
}

// The next page begins where the work is, as after an action.
export const beginAtWork = () => sessionStorage.setItem(KEY, JSON.stringify({ page: null, at: Date.now() }));

export function restoreFocus() {
    let place = JSON.parse(sessionStorage.getItem(KEY) ?? 'null');
    sessionStorage.removeItem(KEY);
    if (place === null || Date.now() - place.at > 120_000 || document.activeElement !== document.body) return false;
    // A page that says itself where it begins is not told otherwise.
    if (document.querySelector('[autofocus]')) return true;
    const isElsewhere = place.page !== window.location.pathname;
    if (isElsewhere && partNamed() === null) { toTold(); return true; }
    if (window.location.hash === '') {
        window.scrollTo(0, place.y);
        const work = document.getElementById('work');
        if (work) work.scrollTop = place.work;
    }
    if (isElsewhere) place = { ways: [], words: null, then: null };
    land(place);
    // A browser that goes to a part of the page named in the address takes the focus away again.
    if (window.location.hash !== '') {
        window.addEventListener('load', () => requestAnimationFrame(() => { if (document.activeElement === document.body) land(place); }));
    }
    return true;
}

function land(place) {
    const el = goneOn(place) ?? again(place) ?? named();
    if (el) el.focus({ preventScroll: window.location.hash === '' }); else toTold();
    if (el && !isInView(el)) el.scrollIntoView({ block: 'center' });
}

const firstIn = (part) => (part ? [...part.querySelectorAll(ABLE)].find(isSeen) : null);

// Where the work goes on after something was made: where its form says, or the part the address names.
function goneOn(place) {
    if (document.querySelector('[data-refused]')) return null;
    if (place.then) return firstIn(document.querySelector(place.then));
    const part = partNamed();
    return part?.matches(':not(:is(h1, h2, h3))') && !part.contains(again(place) ?? null) ? firstIn(part) : null;
}

const partNamed = () => (window.location.hash.length > 1 ? document.getElementById(decodeURIComponent(window.location.hash.slice(1))) : null);

function named() {
    const part = partNamed();
    if (part && !part.matches(ABLE)) part.tabIndex = -1;
    return part;
}

function isInView(el) {
    const box = el.getBoundingClientRect();
    return box.top >= 0 && box.bottom <= window.innerHeight;
}

// A part of the page that is put in anew takes the focus with it.
let before = null;
document.addEventListener('htmx:beforeSwap', (event) => {
    const el = document.activeElement;
    // Another part may be put in before this one has settled.
    if (el && el !== document.body && event.detail.target?.contains?.(el)) before = placeOf(el);
});
document.addEventListener('htmx:oobBeforeSwap', (event) => {
    const el = document.activeElement;
    if (el && el !== document.body && event.detail.target?.contains?.(el)) event.preventDefault();
});
document.addEventListener('htmx:afterSettle', () => {
    const place = before;
    before = null;
    if (place === null || document.activeElement !== document.body) return;
    const el = again(place);
    if (el) el.focus({ preventScroll: true }); else toTold();
});
