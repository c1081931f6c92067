// After every action the focus is where the work is: on the same control, on the next line where its own is gone, or at what is said.
const KEY = 'baggage-focus';
const ABLE = 'a[href], button:not([disabled]), input:not([type=hidden]):not([disabled]), select:not([disabled]), textarea:not([disabled]), summary, tr[tabindex]';

const isSeen = (el) => el && el.getClientRects().length > 0 && !el.disabled;

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
        alike: el.closest('[x-data=reveal]') ? '[x-data=reveal] [aria-expanded]' : null,
        box: box && box.id !== 'work' ? box.id : null,
        y: window.scrollY,
        work: document.getElementById('work')?.scrollTop ?? 0,
        page: window.location.pathname,
        at: Date.now(),
    };
}

function again(place) {
    const one = place.ways.map((way) => { try { return [...document.querySelectorAll(way)].find(isSeen); } catch { return null; } }).find(Boolean);
    if (one) return one;
    const rows = place.table ? [...(document.getElementById(place.table)?.querySelectorAll('tbody tr') ?? [])] : [];
    const row = rows[Math.min(place.row, rows.length - 1)];
    const next = row && [...(place.alike ? row.querySelectorAll(place.alike) : []), ...row.querySelectorAll(ABLE)].find(isSeen);
    if (next) return next;
    const box = place.box ? document.getElementById(place.box) : null;
    return box && [...box.querySelectorAll(ABLE)].find(isSeen);
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
// A link that shows the same page otherwise, as an opened line.
document.addEventListener('click', (event) => {
    const link = event.target.closest('a[href]');
    if (!link || event.defaultPrevented || link.origin !== window.location.origin || link.pathname !== window.location.pathname) return;
    if (link.search !== window.location.search) sessionStorage.setItem(KEY, JSON.stringify(placeOf(link)));
});
document.addEventListener('change', (event) => {
    if (event.target.matches('[data-send]')) sessionStorage.setItem(KEY, JSON.stringify(placeOf(event.target)));
}, true);

export function restoreFocus() {
    const place = JSON.parse(sessionStorage.getItem(KEY) ?? 'null');
    sessionStorage.removeItem(KEY);
    if (place === null || Date.now() - place.at > 120_000 || document.activeElement !== document.body) return false;
    if (place.page !== window.location.pathname) { toTold(); return true; }
    if (window.location.hash === '') {
        window.scrollTo(0, place.y);
        const work = document.getElementById('work');
        if (work) work.scrollTop = place.work;
    }
    const el = again(place);
    if (el) el.focus({ preventScroll: window.location.hash === '' }); else toTold();
    if (el && !isInView(el)) el.scrollIntoView({ block: 'center' });
    return true;
}

function isInView(el) {
    const box = el.getBoundingClientRect();
    return box.top >= 0 && box.bottom <= window.innerHeight;
}

// A part of the page that is put in anew takes the focus with it.
let before = null;
document.addEventListener('htmx:beforeSwap', (event) => {
    const el = document.activeElement;
    before = el && el !== document.body && event.detail.target?.contains?.(el) ? placeOf(el) : null;
});
document.addEventListener('htmx:oobBeforeSwap', (event) => {
    const el = document.activeElement;
    if (el && el !== document.body && event.detail.target?.contains?.(el)) event.preventDefault();
});
document.addEventListener('htmx:afterSettle', () => {
    if (before === null || document.activeElement !== document.body) return;
    const el = again(before);
    before = null;
    if (el) el.focus({ preventScroll: true }); else toTold();
});
