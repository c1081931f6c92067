<?php

namespace App\Support;

use Illuminate\Support\Env;

/**
 * What plans read on the command line may take from the environment: secrets named for it, and what the demo and the benchmarks
 * need. Everything else could be sent to any host otherwise.
 */
final class Environment
{
    private const ALLOWED = '/^(?:BAGGAGE_SECRET_[A-Z0-9_]+|HARBOUR_OFFICE_(?:HOST|PORT|DATABASE|USERNAME|PASSWORD))$/D';

    private const NAMED = '/\$\{([A-Z_][A-Z0-9_]*)(?::-([^}]*))?\}/';

    public static function allows(string $name): bool
    {
        return preg_match(self::ALLOWED, $name) === 1;
    }

    /** Null where the name is not one of those allowed, or not set. */
    public static function get(string $name): ?string
    {
        $value = self::allows($name) ? Env::get($name) : null;

        return is_scalar($value) ? (string) $value : null;
    }

    /** ${NAME} or ${NAME:-otherwise} replaced; a name that is not allowed stays as it is written. */
    public static function fill(string $text): string
    {
        return (string) preg_replace_callback(
            self::NAMED,
            fn ($m) => self::allows($m[1]) ? self::get($m[1]) ?? ($m[2] ?? '') : $m[0],
            $text,
        );
    }

    /** The names alone, without what would stand in their place. */
    public static function named(string $text): string
    {
        return (string) preg_replace(self::NAMED, '${$1}', $text);
    }

    /** @return string|null the first name in the text that is not allowed */
    public static function refused(string $text): ?string
    {
        preg_match_all(self::NAMED, $text, $found);
        foreach ($found[1] as $name) {
            if (! self::allows($name)) {
                return $name;
            }
        }

        return null;
    }
}
