// The journey of a row in a drawer beside the page.
import htmx from 'htmx.org';

const drawer = () => document.getElementById('drawer');
let opener = null;

export const isDrawerOpen = () => drawer()?.children.length > 0;

export function closeDrawer() {
    if (!isDrawerOpen()) return false;
    drawer().replaceChildren();
    opener?.focus();
    return true;
}

// A click on anything that opens a row's journey fills the drawer; with a modifier key it is an ordinary link.
document.addEventListener('click', (event) => {
    const link = event.target.closest('[data-journey]');
    if (link && !event.ctrlKey && !event.metaKey && !event.shiftKey) {
        event.preventDefault();
        opener = link;
        htmx.ajax('GET', link.href, { target: '#drawer', swap: 'innerHTML' }).then(() => drawer()?.querySelector('h1, h2')?.focus());
    }
    if (event.target.closest('[data-close-drawer]')) {
        event.preventDefault();
        closeDrawer();
    }
});
