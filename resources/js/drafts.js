// What is typed and not sent is kept on the server, per person and page, and stands there again when the page is opened.
import { changedFields, isChanged, keptOf, keyed, put, typedFields, valueOf } from './fields.js';

const WAIT = 500;
const SENT = 'baggage-sent';
const here = window.location.pathname;
const address = document.querySelector('[data-drafts]')?.dataset.drafts;
const token = () => JSON.parse(document.body.getAttribute('hx-headers') ?? '{}')['X-CSRF-TOKEN'] ?? '';

let timer = null;
let isKept = false;
let isLeaving = false;
let hasTyped = false;
export let isRestoring = false;

// Of what has just been sent nothing is kept once the server has taken it: a form, or the one line a button sends of it.
const draft = (isSent = () => false) => {
    const fields = {};
    keyed().forEach((field, key) => {
        if (!isSent(field) && isChanged(field)) fields[key] = [keptOf(field), valueOf(field)];
    });
    return fields;
};

function send(page, fields) {
    if (!address) return Promise.resolve();
    isKept = Object.keys(fields).length > 0;
    return fetch(address, {
        method: 'PUT',
        keepalive: true,
        headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-CSRF-TOKEN': token() },
        body: JSON.stringify({ page, fields }),
    }).catch(() => { /* it is still on the page */ });
}

function soon() {
    clearTimeout(timer);
    timer = setTimeout(() => {
        const fields = draft();
        if (isKept || Object.keys(fields).length > 0) send(here, fields);
    }, WAIT);
}

// A form that is sent: the rest of the page's words stay, its own go once the server did not refuse them.
document.addEventListener('submit', (event) => {
    const form = event.target;
    if (event.defaultPrevented || form.matches('[hx-put], [hx-post], [hx-get]')) return;
    isLeaving = true;
    // What answers with a file leaves the page as it is.
    setTimeout(() => { isLeaving = false; }, 5000);
    clearTimeout(timer);
    if (!address || form.getAttribute('method')?.toLowerCase() !== 'post') return;
    const all = draft();
    if (Object.keys(all).length > 0 || isKept) {
        const line = event.submitter?.matches('[data-only]') ? event.submitter.closest('tr') : null;
        const rest = draft((field) => (line ? line.contains(field) : field.form === form));
        sessionStorage.setItem(SENT, JSON.stringify({ page: here, rest, at: Date.now() }));
        send(here, all);
    }
});

function settle() {
    const sent = JSON.parse(sessionStorage.getItem(SENT) ?? 'null');
    sessionStorage.removeItem(SENT);
    const isRefused = document.querySelector('[data-refused]') !== null;
    if (sent === null || isRefused || Date.now() - sent.at > 120_000) return Promise.resolve();
    return send(sent.page, sent.rest);
}

function show(field) {
    field.closest('details:not([open])')?.setAttribute('open', '');
    const reveal = field.closest('[x-data=reveal]')?.querySelector('[aria-expanded=false]');
    if (reveal && field.offsetParent === null) reveal.click();
}

function tell(back, others, at) {
    const place = document.getElementById('told');
    if (!place || back + others.length === 0) return;
    const note = document.createElement('div');
    note.className = 'note';
    note.dataset.drafted = '';
    if (back > 0) note.append(`${back === 1 ? 'One change' : `${back} changes`} you typed here and did not keep ${back === 1 ? 'is' : 'are'} still here, from ${at}. `);
    others.forEach(([label, value]) => {
        const code = document.createElement('code');
        code.textContent = value;
        note.append(`${label} was changed by somebody since you typed `, code, ', which was not kept. ');
    });
    const forget = document.createElement('button');
    forget.type = 'button';
    forget.className = 'linkish';
    forget.textContent = back + others.length === 1 ? 'Forget it' : 'Forget them';
    forget.addEventListener('click', () => { send(here, {}).then(() => { isLeaving = true; window.location.reload(); }); });
    note.append(forget);
    place.append(note);
}

function restore({ fields, at }) {
    isKept = Object.keys(fields).length > 0;
    let back = 0;
    const others = [];
    isRestoring = true;
    const on = keyed();
    Object.entries(fields).forEach(([key, [kept, value]]) => {
        const field = on.get(key);
        if (!field || isChanged(field) || value === valueOf(field)) return;
        if (kept !== keptOf(field)) { others.push([field.getAttribute('aria-label') ?? field.labels?.[0]?.textContent?.trim() ?? field.name, value]); return; }
        put(field, value);
        show(field);
        field.dispatchEvent(new Event('input', { bubbles: true }));
        field.dispatchEvent(new Event('change', { bubbles: true }));
        back++;
    });
    isRestoring = false;
    tell(back, others, at);
}

export const ready = !address || typedFields().length === 0 ? Promise.resolve() : settle()
    .then(() => fetch(`${address}?page=${encodeURIComponent(here)}`, { headers: { Accept: 'application/json' } }))
    .then((answer) => (answer.ok ? answer.json() : null))
    .then((found) => { if (found) restore(found); document.documentElement.dataset.draftsRead = ''; })
    .catch(() => { /* the page is as the server gave it */ });

['input', 'change'].forEach((kind) => document.addEventListener(kind, () => {
    if (isRestoring) return;
    hasTyped = true;
    soon();
}));
document.addEventListener('htmx:afterSettle', soon);

// Whoever leaves is asked while something typed on this visit is not sent; a rule on its way counts as sent.
window.addEventListener('beforeunload', (event) => {
    if (isLeaving || !hasTyped || !changedFields().some((field) => !field.closest('.htmx-request'))) return;
    clearTimeout(timer);
    send(here, draft());
    event.preventDefault();
});
