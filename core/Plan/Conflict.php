<?php

namespace Baggage\Core\Plan;

/** An item of a plan that was changed in the file and on a screen, and not alike. */
final readonly class Conflict
{
    /**
     * @param  string  $path  as Items has it
     * @param  mixed  $file  null where the file removed it
     * @param  mixed  $screen  null where a person removed it
     */
    public function __construct(public string $path, public mixed $file, public mixed $screen)
    {
    }

    public function text(): string
    {
        return Items::shown($this->path).': the file says '.self::said($this->file).', the screen '.self::said($this->screen);
    }

    public static function said(mixed $value): string
    {
        return match (true) {
            $value === null => 'nothing',
            is_string($value) => "\"$value\"",
            is_array($value) && count($value) === 1 && is_string(reset($value)) => '"'.reset($value).'"',
            default => mb_strimwidth((string) json_encode($value, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES), 0, 300, ' …'),
        };
    }
}
