import { isChanged } from './fields.js';

// Rows of a table are walked with the arrow keys: Space marks one, Enter opens it. One row of a table is in the order of Tab.
const rowsOf = (table) => [...table.querySelectorAll(':scope > tbody > tr')].filter((row) => !row.matches('.open') && row.cells.length > 1);

function ready(root) {
    root.querySelectorAll?.('table[data-walk]').forEach((table) => {
        const rows = rowsOf(table);
        if (rows.length < 2 || rows.some((row) => row.tabIndex === 0)) return;
        rows.forEach((row, i) => { row.tabIndex = i === 0 ? 0 : -1; });
    });
}
ready(document);

// What scrolls in itself where there is little room, and has nothing in it that takes the focus, takes it itself.
function scrolls() {
    document.querySelectorAll('.scroll-x:not([role])').forEach((part) => {
        const wants = part.scrollWidth > part.clientWidth && !part.querySelector('a[href], button, input, select, textarea, [tabindex]');
        if (!wants) { if (part.tabIndex === 0) part.removeAttribute('tabindex'); return; }
        part.tabIndex = 0;
    });
}
scrolls();
window.addEventListener('resize', scrolls);
document.addEventListener('htmx:load', (event) => { ready(event.detail.elt.parentElement ?? document); scrolls(); });

function go(rows, at) {
    const row = rows[Math.max(0, Math.min(rows.length - 1, at))];
    rows.forEach((other) => { other.tabIndex = other === row ? 0 : -1; });
    row.focus();
}

const boxOf = (row) => row.querySelector('input[type=checkbox]');

function mark(row, is) {
    row.toggleAttribute('data-marked', is);
    const box = boxOf(row);
    if (box) box.checked = is;
    tell(row.closest('table'));
}

function tell(table) {
    const place = (table.closest('[data-table]') ?? table.closest('main'))?.querySelector('[data-marks]');
    if (!place) return;
    const n = table.querySelectorAll('tr[data-marked]').length;
    place.hidden = n === 0;
    place.querySelector('[role=status]').textContent = n === 0 ? '' : `${n.toLocaleString('en')} marked`;
}

document.addEventListener('keydown', (event) => {
    const row = event.target;
    if (!row.matches?.('table[data-walk] > tbody > tr') || event.ctrlKey || event.metaKey || event.altKey) return;
    const rows = rowsOf(row.closest('table'));
    const at = rows.indexOf(row);
    const to = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: rows.length - 1, PageDown: at + 15, PageUp: at - 15 }[event.key];
    if (to !== undefined) { event.preventDefault(); go(rows, to); }
    if (event.key === ' ') { event.preventDefault(); mark(row, !row.hasAttribute('data-marked')); }
    if (event.key === 'Enter') { event.preventDefault(); (row.querySelector('[data-open]') ?? row.querySelector('a[href], summary, button:not([disabled])'))?.click(); }
});
document.addEventListener('change', (event) => {
    const row = event.target.matches('table[data-walk] input[type=checkbox]') ? event.target.closest('tr') : null;
    if (row && boxOf(row) === event.target) { row.toggleAttribute('data-marked', event.target.checked); tell(row.closest('table')); }
});

// Marked rows as a spreadsheet takes them: cells with tabs between.
const cell = (td) => {
    const field = td.querySelector('input:not([type=hidden]):not([type=checkbox]), select');
    const text = field === null ? td.innerText : field.matches('select') ? field.selectedOptions[0]?.text ?? '' : field.value;
    return text.replace(/\s+/g, ' ').trim();
};

async function copy(text) {
    try { await navigator.clipboard.writeText(text); return true; } catch { /* not over a plain connection */ }
    const field = document.createElement('textarea');
    field.value = text;
    field.className = 'sr-only';
    document.body.append(field);
    field.select();
    const isCopied = document.execCommand('copy');
    field.remove();
    return isCopied;
}

document.addEventListener('click', async (event) => {
    const place = event.target.closest('[data-marks]');
    if (!place) return;
    const within = place.closest('[data-table]') ?? place.closest('main');
    const rows = [...within.querySelectorAll('tr[data-marked]')];
    if (event.target.closest('[data-clear-marks]')) rows.forEach((row) => mark(row, false));
    if (event.target.closest('[data-copy-marks]')) {
        const isCopied = await copy(rows.map((row) => [...row.cells].map(cell).join('\t')).join('\n'));
        place.querySelector('[role=status]').textContent = isCopied ? `${rows.length.toLocaleString('en')} copied` : 'The browser does not let it be copied.';
    }
});

// Sorting or filtering makes a table anew: what was typed into it and not sent would be lost.
document.addEventListener('htmx:beforeRequest', (event) => {
    const table = event.detail.target?.matches?.('[data-table]') ? event.detail.target : null;
    const typed = table && [...table.querySelectorAll('tbody input:not([type=hidden]), tbody select, tbody textarea')].some(isChanged);
    if (typed && !window.confirm('What you changed in this table is not kept yet. Leave it?')) event.preventDefault();
});

// Files: a place to drop onto that also opens the chooser.
const zone = (event) => event.target.closest?.('[data-drop]');
const says = (label) => {
    const files = [...label.querySelector('input').files];
    label.querySelector('[data-chosen]').textContent = files.map((file) => file.name).join(', ');
    label.toggleAttribute('data-filled', files.length > 0);
};
['dragenter', 'dragover'].forEach((kind) => document.addEventListener(kind, (event) => {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    const label = zone(event);
    event.dataTransfer.dropEffect = label ? 'copy' : 'none';
    document.querySelectorAll('[data-drop][data-over]').forEach((other) => other.toggleAttribute('data-over', other === label));
    label?.setAttribute('data-over', '');
}));
document.addEventListener('dragleave', (event) => { if (event.relatedTarget === null || !zone(event)?.contains(event.relatedTarget)) zone(event)?.removeAttribute('data-over'); });
document.addEventListener('drop', (event) => {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    const label = zone(event);
    if (!label) return;
    label.removeAttribute('data-over');
    const input = label.querySelector('input');
    const files = new DataTransfer();
    [...event.dataTransfer.files].slice(0, input.multiple ? undefined : 1).forEach((file) => files.items.add(file));
    input.files = files.files;
    input.dispatchEvent(new Event('change', { bubbles: true }));
});
document.addEventListener('change', (event) => { const label = event.target.matches('[data-drop] input') ? zone(event) : null; if (label) says(label); });

