<?php

namespace Baggage\Core\Reading\Http;

/** How one page of a service's answer leads to the next. */
final readonly class Paging
{
    public const KINDS = ['none', 'link', 'number', 'cursor'];

    /**
     * @param  string  $kind  'none'; 'link' for the header Link with rel="next" (RFC 8288); 'number' for a parameter that counts
     *                        pages; 'cursor' for a value in the answer that goes into a parameter of the next request
     * @param  string  $parameter  of the request, for number and cursor
     * @param  string  $next  where the cursor is in the answer, keys joined by dots
     * @param  int  $first  number of the first page
     */
    public function __construct(
        public string $kind = 'none',
        public string $parameter = '',
        public string $next = '',
        public int $first = 1,
    ) {
        if (! in_array($kind, self::KINDS, true)) {
            throw new \InvalidArgumentException(
                "Pages follow each other by none, link, number or cursor, not \"$kind\".",
            );
        }
        if (in_array($kind, ['number', 'cursor'], true) && $parameter === '') {
            throw new \InvalidArgumentException("Paging by $kind needs the name of the parameter.");
        }
        if ($kind === 'cursor' && $next === '') {
            throw new \InvalidArgumentException('Paging by cursor needs the place of the cursor in the answer.');
        }
    }

    /** @param  array<string, mixed>  $a */
    public static function fromArray(array $a): self
    {
        return new self(
            (string) ($a['paging'] ?? 'none'),
            trim((string) ($a['page_parameter'] ?? '')),
            trim((string) ($a['next'] ?? '')),
            (int) ($a['first_page'] ?? 1),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return array_filter(
            [
                'paging' => $this->kind === 'none' ? null : $this->kind,
                'page_parameter' => $this->parameter ?: null,
                'next' => $this->next ?: null,
                'first_page' => $this->first === 1 ? null : $this->first,
            ],
            fn ($v) => $v !== null,
        );
    }

    /** The address of the first page. */
    public function begin(string $address): string
    {
        return $this->kind === 'number' ? self::with($address, $this->parameter, (string) $this->first) : $address;
    }

    /**
     * @param  string  $address  of the page just read
     * @param  string  $link  its header Link, or ''
     * @param  array<array-key, mixed>  $answer  its body
     * @param  int  $records  how many it held
     * @return string|null the next page's address, null after the last
     */
    public function after(string $address, string $link, array $answer, int $records): ?string
    {
        if ($this->kind === 'link') {
            return preg_match('/<([^>]+)>\s*;[^,]*\brel="?[^",]*\bnext\b/', $link, $m) === 1 ? $m[1] : null;
        }
        if ($this->kind === 'number') {
            preg_match('/[?&]'.preg_quote(rawurlencode($this->parameter), '/').'=(\d+)/', $address, $m);

            return $records === 0
                ? null
                : self::with($address, $this->parameter, (string) ((int) ($m[1] ?? $this->first) + 1));
        }
        if ($this->kind === 'cursor') {
            $value = $answer;
            foreach (explode('.', $this->next) as $key) {
                $value = is_array($value) ? $value[$key] ?? null : null;
            }

            return is_scalar($value) && $value !== '' && $value !== false
                ? self::with($address, $this->parameter, (string) $value)
                : null;
        }

        return null;
    }

    private static function with(string $address, string $parameter, string $value): string
    {
        $pair = rawurlencode($parameter).'='.rawurlencode($value);
        $pattern = '/([?&])'.preg_quote(rawurlencode($parameter), '/').'=[^&]*/';

        return preg_match($pattern, $address) === 1
            ? (string) preg_replace($pattern, '$1'.addcslashes($pair, '\\$'), $address)
            : $address.(str_contains($address, '?') ? '&' : '?').$pair;
    }
}
