<?php

namespace Baggage\Core\Rows;

/** Why a row is not loaded; rows with equal causes of one load form one group. */
final readonly class Cause
{
    /**
     * @param  string  $code  groups alike failures, e.g. "too_long"
     * @param  string|null  $field  target field, null when the whole row is meant
     * @param  string|null  $value  the offending value, or the key of the parent a held row waits for
     * @param  string|null  $parentEntity  for held rows and orphans
     * @param  string|null  $parentSpace  for held rows and orphans
     */
    public function __construct(
        public Stage $stage,
        public string $code,
        public ?string $field,
        public ?string $value,
        public string $message,
        public ?string $parentEntity = null,
        public ?string $parentSpace = null,
    ) {
    }

    /**
     * What to call rejects with the same code: a message without what differs from row to row.
     *
     * @param  bool  $several  whether they have different values or messages
     */
    public static function title(string $code, string $message, bool $several): string
    {
        $title = (string) preg_replace(['/ \(the target says: .*$/s', '/ by row \d+(?: of .+)?$/'], ['', ' by another row'], $message);

        return ! $several
            ? $title
            : match ($code) {
                'too_long' => explode(':', $title)[0],
                'taken' => 'Already taken by another record',
                'short_row' => 'The row has fewer cells than the header',
                'long_row' => 'The row has more cells than the header',
                default => $title,
            };
    }

    /** Equal for failures that one decision is about: the rows they name may have other numbers in the next take. */
    public function decided(): string
    {
        return hash('xxh128', $this->saying($this->value === null ? (string) preg_replace('/\brow \d+/', 'row', $this->message) : ''));
    }

    /** Whether a row with such a failure has no legacy key of its own to be known by. */
    public static function isAboutKey(string $code): bool
    {
        return in_array($code, ['no_legacy_key', 'duplicate_key', 'short_row', 'long_row'], true);
    }

    /** Equal for equal causes. */
    public function identity(): string
    {
        return $this->saying($this->message);
    }

    private function saying(string $message): string
    {
        return implode("\x1E", [
            $this->stage->value,
            $this->code,
            $this->field,
            $this->value,
            $this->parentEntity,
            $this->parentSpace,
            $message,
        ]);
    }
}
