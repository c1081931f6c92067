import Alpine from '@alpinejs/csp';
import htmx from 'htmx.org';
import { isRestoring, ready } from './drafts.js';
import { isDrawerOpen } from './drawer.js';
import { restoreFocus, stay } from './focus.js';
import './keys.js';
import './sheet.js';
import './tables.js';
import './busy.js';

// The page's policy forbids inline script and style, so htmx is told in the page's meta tag to need neither.
window.htmx = htmx;

Alpine.data('reveal', () => ({
    open: false,
    toggle() { this.open = !this.open; if (this.open) this.$nextTick(() => this.$root.querySelector('[data-first]')?.focus()); },
    get closed() { return !this.open; },
    init() {
        this.$root.addEventListener('keydown', (event) => {
            if (event.key !== 'Escape' || !this.open || event.defaultPrevented) return;
            event.preventDefault();
            this.open = false;
            this.$root.querySelector('button[aria-expanded]')?.focus();
        });
    },
}));
Alpine.data('picker', () => ({
    kind: 'spread',
    init() { this.kind = this.$root.querySelector('select').value; },
    get column() { return this.kind === 'column' || this.kind === 'value'; },
    get value() { return this.kind === 'value'; },
}));
// A cause with its values: what is ticked is what a repair is about, and its cells are what is corrected.
Alpine.data('repairs', () => ({
    which: '',
    init() { this.which = this.$root.dataset.all; this.ticked(); },
    ticked() {
        const ticks = [...this.$root.querySelectorAll('[name="causes[]"]:checked')];
        const rows = ticks.reduce((sum, tick) => sum + Number(tick.dataset.rows), 0);
        const words = (n, one) => `${n.toLocaleString('en')} ${one}${n === 1 ? '' : 's'}`;
        this.which = ticks.length === 0 ? this.$root.dataset.all : `the ${words(rows, 'row')} of ${words(ticks.length, 'value')}`;
        const to = this.$refs.to;
        if (!to || (to.value !== '' && to.value !== to.defaultValue)) return;
        const cells = JSON.parse((ticks.length === 1 ? ticks[0] : to).dataset.cells ?? '{}');
        to.value = cells[this.$root.querySelector('[name="header"]').value] ?? '';
        to.defaultValue = to.value;
    },
}));
Alpine.start();

// A form with several ways: Enter presses the button of the line it is typed in.
document.addEventListener('keydown', (event) => {
    const line = event.key === 'Enter' && event.target.matches('input') ? event.target.closest('[data-line]') : null;
    const button = line?.querySelector('button:not([type="button"])');
    if (button) { event.preventDefault(); button.click(); }
});

// First the focus, then what was typed before; what is opened for that must not take the focus away.
restoreFocus();
ready.then(() => { if (document.activeElement === document.body) restoreFocus(); });

document.addEventListener('click', (event) => {
    if (event.target.closest('[data-help]')) document.getElementById('help')?.showModal();
    if (event.target.closest('[data-close-help]')) document.getElementById('help')?.close();
});

// A page that waits for a worker to have looked asks again.
const again = document.querySelector('[data-look-again]');
if (again) setTimeout(() => (again instanceof HTMLFormElement ? again.requestSubmit() : window.location.reload()), 1500);

// In which zone times are read is what the browser says, until its owner says otherwise.
document.querySelectorAll('[data-zone]').forEach((field) => { field.value = Intl.DateTimeFormat().resolvedOptions().timeZone ?? ''; });

// What is folded where there is little room.
document.addEventListener('click', (event) => {
    const fold = event.target.closest('[data-fold]');
    if (!fold) return;
    const isOpen = document.getElementById(fold.dataset.fold).toggleAttribute('data-open');
    fold.setAttribute('aria-expanded', String(isOpen));
});

// Cells of a row that is put right as a whole: what stands in the fields moves up and down beside the columns.
document.addEventListener('click', (event) => {
    const button = event.target.closest('[data-cell]');
    const form = button?.closest('[data-cells]');
    if (!form) return;
    const fields = [...form.querySelectorAll('[name="cells[]"]')];
    const at = fields.indexOf(button.closest('tr').querySelector('[name="cells[]"]'));
    const values = fields.map((field) => field.value);
    if (button.dataset.cell === 'insert' && values.at(-1) !== '') return;
    if (button.dataset.cell === 'insert') { values.splice(at, 0, ''); values.pop(); }
    if (button.dataset.cell === 'drop') { values.splice(at, 1); values.push(''); }
    if (button.dataset.cell === 'join' && at < values.length - 1) {
        values.splice(at, 2, values[at] + form.dataset.glue + values[at + 1]);
        values.push('');
    }
    fields.forEach((field, i) => { field.value = values[i]; });
    fields[at].focus();
});

// Forms that send at once when something is chosen.
document.addEventListener('change', (event) => {
    if (event.target.matches('[data-send]') && !isRestoring) event.target.form.requestSubmit();
});

// When something has ended on the server a page nobody has touched is read anew; one that holds somebody's words waits for them.
let touched = false;
document.addEventListener('input', () => { if (!isRestoring) touched = true; });
document.addEventListener('figures-are-old', () => {
    const busy = document.activeElement?.matches('input, textarea, select') || document.querySelector('dialog[open]') || isDrawerOpen();
    if (!touched && !busy) { stay(); window.location.reload(); }
});
document.addEventListener('click', (event) => {
    if (event.target.closest('[data-anew]')) { event.preventDefault(); stay(); window.location.reload(); }
});

// A refused request shows what the server said instead of nothing.
document.addEventListener('htmx:beforeSwap', (event) => {
    if ([409, 422].includes(event.detail.xhr.status)) { event.detail.shouldSwap = true; event.detail.isError = false; }
});
document.addEventListener('htmx:responseError', (event) => {
    const place = document.getElementById('told');
    if (place) { place.textContent = `The server answered ${event.detail.xhr.status}. Nothing was changed; load the page again.`; place.className = 'note bad'; }
});
document.addEventListener('htmx:sendError', () => {
    const place = document.getElementById('told');
    if (place) { place.textContent = 'The server does not answer. Nothing was changed.'; place.className = 'note bad'; }
});
