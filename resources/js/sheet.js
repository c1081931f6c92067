// The rule sheet under the hands: Enter keeps a rule that differs and goes on to the next; leaving its line keeps it too.
import htmx from 'htmx.org';

const rules = () => [...document.querySelectorAll('textarea.rule:not([readonly])')];
const differs = (field) => field.value.trim() !== field.defaultValue.trim();

// Which line was kept by Enter, to go on from when it is there again.
let from = null;

function goOn(id) {
    const all = rules();
    const at = all.findIndex((field) => field.closest('tbody').id === id);
    const next = all[at + 1] ?? all[at];
    next?.focus();
    next?.setSelectionRange(next.value.length, next.value.length);
}

export function keep(field) {
    const id = field.closest('tbody').id;
    if (!differs(field) && field.getAttribute('aria-invalid') !== 'true') { goOn(id); return; }
    from = id;
    htmx.trigger(field.form, 'keep');
}

document.addEventListener('keydown', (event) => {
    // Shift with Enter starts a new line in it.
    if (event.defaultPrevented || event.key !== 'Enter' || event.shiftKey || !event.target.matches?.('textarea.rule')) return;
    event.preventDefault();
    if (!event.target.readOnly) keep(event.target);
});
document.addEventListener('focusout', (event) => {
    const field = event.target;
    if (!field.matches?.('textarea.rule') || field.readOnly || !differs(field) || !document.hasFocus()) return;
    if (field.form.contains(event.relatedTarget) || field.closest('tbody').id === from) return;
    htmx.trigger(field.form, 'keep');
});

document.addEventListener('htmx:afterRequest', (event) => {
    const id = event.detail.elt.closest?.('tbody[id^=rule-]')?.id ?? event.detail.target?.id ?? '';
    if (!id.startsWith('rule-') || event.detail.requestConfig?.verb === 'get') return;
    const isKept = event.detail.xhr?.status === 200;
    if (from === id) {
        from = null;
        setTimeout(() => {
            if (isKept) { goOn(id); return; }
            const field = document.querySelector(`#${CSS.escape(id)} textarea.rule`);
            field?.focus();
            field?.setSelectionRange(field.value.length, field.value.length);
        }, 40);
    }
    // Head, tabs, check, undo and shelf follow.
    if (isKept) setTimeout(() => htmx.trigger(document.body, 'sheet-kept'), 60);
});

// What is put in beside the line that was kept must not take somebody's words or the focus with it.
document.addEventListener('htmx:oobBeforeSwap', (event) => {
    const part = event.detail.target;
    const typed = [...(part?.querySelectorAll?.('input:not([type=hidden]):not([type=checkbox]), textarea') ?? [])];
    if (typed.some((field) => field.value !== field.defaultValue)) event.preventDefault();
});
