// Shortcuts of single letters: only when nothing was just edited, and only while the person wants them.
import { completion } from './completion.js';
import { closeDrawer } from './drawer.js';
import { isRestoring } from './drafts.js';
import { beginAtWork } from './focus.js';

const WANTED = 'baggage-letters';
const EDITED = 'baggage-edited';

const areWanted = () => localStorage.getItem(WANTED) !== 'off';

// After typing, a letter is meant for what was typed, until something else is plainly begun.
let isEdited = sessionStorage.getItem(EDITED) !== null;
sessionStorage.removeItem(EDITED);
document.addEventListener('input', (event) => { if (!isRestoring && event.target.matches('input, textarea')) isEdited = true; });
document.addEventListener('pointerdown', (event) => { if (!event.target.closest('input, textarea, select')) isEdited = false; });
document.addEventListener('submit', () => { if (isEdited) sessionStorage.setItem(EDITED, '1'); });

const go = (selector) => {
    const link = document.querySelector(selector);
    if (!link) return;
    beginAtWork();
    window.location = link.href;
};

// Esc closes what is open around the focus, the innermost first.
function close(event) {
    const details = event.target.closest?.('#work details[open]');
    if (details) {
        details.open = false;
        details.querySelector('summary')?.focus();
        return true;
    }
    const line = event.target.closest?.('tr.open') ?? (document.activeElement === document.body ? document.querySelector('tr.open') : null);
    const shut = line && document.querySelector('[data-shut]');
    if (shut) shut.click();
    return Boolean(shut);
}

document.addEventListener('keydown', (event) => {
    if (completion(event)) return;
    const rows = event.altKey && { ArrowUp: '[data-rows-before]', ArrowDown: '[data-rows-after]' }[event.key];
    if (rows) { event.preventDefault(); go(rows); return; }
    if (['Escape', 'Tab', 'ArrowUp', 'ArrowDown'].includes(event.key) && !event.target.closest('input, textarea')) isEdited = false;
    if (event.key === 'Escape') {
        if (!event.defaultPrevented && !document.querySelector('dialog[open]') && (closeDrawer() || close(event))) event.preventDefault();
        return;
    }
    if (event.target.closest('input, textarea, select, dialog') || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === '?') { document.getElementById('help')?.showModal(); return; }
    if (isEdited || !areWanted()) return;
    const move = { '[': '[data-stop-before]', ']': '[data-stop-after]', k: '[data-entity-before]', j: '[data-entity-after]' }[event.key];
    if (move) { event.preventDefault(); go(move); }
    if (event.key === '/') { event.preventDefault(); document.getElementById('trace')?.focus(); }
});

const box = document.getElementById('letters');
if (box) {
    box.checked = areWanted();
    box.addEventListener('change', () => localStorage.setItem(WANTED, box.checked ? 'on' : 'off'));
}
