// What was pressed shows at once that it has begun, and is not begun twice.
const LONGEST = 10_000;

const bar = () => document.getElementById('busy');

function begin(el) {
    bar()?.removeAttribute('hidden');
    el?.setAttribute('aria-busy', 'true');
    setTimeout(() => end(el), LONGEST);
}

function end(el) {
    bar()?.setAttribute('hidden', '');
    el?.removeAttribute('aria-busy');
}

document.addEventListener('submit', (event) => {
    if (event.defaultPrevented) return;
    const form = event.target;
    if (form.dataset.begun && Date.now() - Number(form.dataset.begun) < 3000) { event.preventDefault(); return; }
    form.dataset.begun = Date.now();
    begin(event.submitter ?? form.querySelector('button'));
});
document.addEventListener('click', (event) => {
    const link = event.target.closest('a[href]');
    if (!link || event.defaultPrevented || event.ctrlKey || event.metaKey || event.shiftKey || event.altKey || event.button !== 0) return;
    if (link.target || link.hasAttribute('download') || link.origin !== window.location.origin || link.hasAttribute('hx-get')) return;
    if (link.pathname === window.location.pathname && link.search === window.location.search && link.hash !== '') return;
    begin(link);
});
window.addEventListener('pageshow', () => {
    end(null);
    document.querySelectorAll('[aria-busy]').forEach(end);
    document.querySelectorAll('form[data-begun]').forEach((form) => delete form.dataset.begun);
});
document.addEventListener('htmx:beforeRequest', (event) => { if (event.detail.requestConfig?.verb !== 'get') begin(null); });
document.addEventListener('htmx:afterRequest', () => end(null));

// What a page asks at intervals says so: that it is open somewhere does not keep anybody logged in.
document.addEventListener('htmx:configRequest', (event) => {
    if (!event.detail.triggeringEvent) event.detail.headers['X-By-Itself'] = '1';
});
