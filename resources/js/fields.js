// What is typed into fields that are sent to be kept: whether it differs from what is kept, and which field of a page it is.
export const isChanged = (field) => (['checkbox', 'radio'].includes(field.type) ? field.checked !== field.defaultChecked
    : field.matches('select') ? [...field.options].some((o) => o.selected !== o.defaultSelected) && [...field.options].some((o) => o.defaultSelected)
        || (![...field.options].some((o) => o.defaultSelected) && field.selectedIndex > 0)
    : field.value !== field.defaultValue);

const NOT_TYPED = ['hidden', 'password', 'file', 'submit', 'button', 'image', 'reset'];

const isTyped = (field) => field.form?.getAttribute('method')?.toLowerCase() === 'post'
    && field.name !== '' && !NOT_TYPED.includes(field.type) && !field.readOnly && !field.disabled
    && !field.matches('[data-send]') && !field.form.matches('[data-no-draft]');

export const typedFields = () => [...document.querySelectorAll('input, select, textarea')].filter(isTyped);

export const changedFields = () => typedFields().filter(isChanged);

// The same for the same field when the page is loaded again, whatever its place.
export function keyed(fields = typedFields()) {
    const seen = new Map();
    return new Map(fields.map((field) => {
        const at = new URL(field.form.getAttribute('action') ?? '', window.location.href);
        const label = field.getAttribute('aria-label') ?? field.id;
        const which = ['checkbox', 'radio'].includes(field.type) ? `=${field.value}` : '';
        const key = `${at.pathname}|${field.name.replace(/\[\d+\]/g, '[]')}${which}|${label}`.slice(0, 300);
        seen.set(key, (seen.get(key) ?? 0) + 1);
        return [seen.get(key) === 1 ? key : `${key}#${seen.get(key)}`, field];
    }));
}

export const valueOf = (field) => (['checkbox', 'radio'].includes(field.type) ? String(Number(field.checked))
    : field.multiple ? JSON.stringify([...field.selectedOptions].map((o) => o.value))
    : field.value);

export const keptOf = (field) => (['checkbox', 'radio'].includes(field.type) ? String(Number(field.defaultChecked))
    : field.matches('select') ? ([...field.options].find((o) => o.defaultSelected) ?? field.options[0])?.value ?? ''
    : field.defaultValue);

export function put(field, value) {
    if (['checkbox', 'radio'].includes(field.type)) field.checked = value === '1';
    else if (field.multiple) [...field.options].forEach((o) => { o.selected = JSON.parse(value).includes(o.value); });
    else field.value = value;
}
