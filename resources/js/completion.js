import { isRestoring } from './drafts.js';

// Completes names of columns and functions while a rule is typed, and shows what a function takes.
let words = null;
let open = null;

const known = () => {
    words ??= JSON.parse(document.getElementById('words')?.dataset.words ?? '[]');
    return words;
};

// The box around the field says whether its list is open: a role of its own is not allowed on a field of several lines.
const say = (field, isOpen) => {
    const box = field.closest('[role=combobox]');
    box?.setAttribute('aria-expanded', String(isOpen));
    if (isOpen) box?.setAttribute('aria-owns', 'completion'); else box?.removeAttribute('aria-owns');
    if (isOpen) box?.setAttribute('aria-controls', 'completion'); else box?.removeAttribute('aria-controls');
};

const close = () => {
    open?.list.remove();
    if (open) say(open.field, false);
    open?.field.removeAttribute('aria-controls');
    open?.field.removeAttribute('aria-activedescendant');
    open = null;
};

// The word the caret stands behind, unless it stands in a quoted text.
function wordAt(field) {
    const before = field.value.slice(0, field.selectionStart);
    if ((before.match(/'/g) ?? []).length % 2 === 1) return null;
    return before.match(/[A-Za-z_][A-Za-z0-9_]*$/)?.[0] ?? null;
}

// The innermost function whose bracket is still open before the caret.
function callAt(field) {
    const before = field.value.slice(0, field.selectionStart).replace(/'[^']*'/g, "''");
    let depth = 0;
    for (let i = before.length - 1; i >= 0; i--) {
        if (before[i] === ')') depth++;
        if (before[i] === '(' && depth-- === 0) return before.slice(0, i).match(/[A-Za-z_][A-Za-z0-9_]*$/)?.[0] ?? null;
    }
    return null;
}

function choose(item) {
    const { field, word } = open;
    const at = field.selectionStart;
    field.setRangeText(item.dataset.word, at - word.length, at, 'end');
    close();
    field.dispatchEvent(new Event('input', { bubbles: true }));
}

function mark(n) {
    const items = [...open.list.querySelectorAll('[role=option]')];
    open.at = (n + items.length) % items.length;
    items.forEach((item, i) => item.setAttribute('aria-selected', String(i === open.at)));
    open.field.setAttribute('aria-activedescendant', items[open.at].id);
    items[open.at].scrollIntoView({ block: 'nearest' });
}

function show(field) {
    close();
    const word = wordAt(field);
    const found = word === null ? [] : known().filter(([name]) => name.startsWith(word) && name !== word && name !== `${word}(`).slice(0, 12);
    const call = known().find(([name]) => name === `${callAt(field)}(`);
    if (found.length === 0 && !call) return;
    const list = document.createElement('div');
    list.className = 'completion';
    if (call) {
        const sign = document.createElement('p');
        const code = document.createElement('code');
        const end = call[1].indexOf(')') + 1;
        code.textContent = call[0] + call[1].slice(0, end);
        sign.append(code, call[1].slice(end));
        list.append(sign);
    }
    if (found.length > 0) {
        const box = document.createElement('div');
        box.setAttribute('role', 'listbox');
        box.id = 'completion';
        box.setAttribute('aria-label', 'Columns and functions');
        found.forEach(([name, about], i) => {
            const item = document.createElement('div');
            item.id = `completion-${i}`;
            item.setAttribute('role', 'option');
            item.dataset.word = name;
            const code = document.createElement('code');
            code.textContent = name;
            item.append(code, ` ${about}`);
            item.addEventListener('mousedown', (event) => { event.preventDefault(); choose(item); });
            box.append(item);
        });
        list.append(box);
        field.setAttribute('aria-controls', 'completion');
        say(field, true);
    }
    // In the work area itself, fixed to the window, so that no scrolling part cuts it off.
    (document.getElementById('work') ?? document.body).append(list);
    const box = field.getBoundingClientRect();
    const below = window.innerHeight - box.bottom;
    list.style.left = `${Math.min(box.left, window.innerWidth - list.offsetWidth - 8)}px`;
    list.style.top = below > list.offsetHeight + 40 || below > box.top ? `${box.bottom + 2}px` : `${box.top - list.offsetHeight - 2}px`;
    open = { field, list, word, at: -1, some: found.length > 0 };
}

document.addEventListener('input', (event) => { if (!isRestoring && event.target.matches('textarea.rule')) show(event.target); });
document.addEventListener('scroll', (event) => { if (open && !open.list.contains(event.target) && event.target !== open.field) close(); }, true);
document.addEventListener('focusout', (event) => { if (event.target.matches?.('textarea.rule')) close(); });

// A word that stands for itself is not made another by Enter.
const isWhole = (word) => known().some(([name]) => name === word || name === `${word}(`);

// Arrows move, Tab and Enter take the marked or the only one, Escape closes.
export function completion(event) {
    if (open === null || event.target !== open.field || !open.some) {
        if (open !== null && event.key === 'Escape') { close(); return true; }
        return false;
    }
    const items = open.list.querySelectorAll('[role=option]');
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
        if (event.altKey) return false;
        event.preventDefault();
        mark(open.at + (event.key === 'ArrowDown' ? 1 : -1));
        return true;
    }
    const isOnly = items.length === 1 && !(event.key === 'Enter' && isWhole(open.word));
    if ((event.key === 'Enter' || event.key === 'Tab') && !event.shiftKey && (open.at >= 0 || isOnly) && open.word !== '') {
        event.preventDefault();
        choose(items[Math.max(0, open.at)]);
        return true;
    }
    if (event.key === 'Escape') { close(); return true; }
    return false;
}
