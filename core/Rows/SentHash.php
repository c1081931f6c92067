<?php

namespace Baggage\Core\Rows;

/**
 * A hash of the record a row becomes: xxh128 (XXH3, 128 bits) over a version byte and the mapped record, fields by name, values in the
 * canonical form of their types, references by target key, those that may be set later by legacy key.
 */
final class SentHash
{
    private const VERSION = "\x02";

    /** @return string 32 hexadecimal digits */
    public static function of(Journey $journey): string
    {
        $record = $journey->values;
        foreach ($journey->links as $field => $link) {
            $record[$field] = "$link[space]\x1F$link[key]";
        }

        return self::ofRecord($record);
    }

    /**
     * @param  array<string, string|null>  $record  as it was sent
     * @return string 32 hexadecimal digits
     */
    public static function ofRecord(array $record): string
    {
        ksort($record);

        return hash('xxh128', self::VERSION.json_encode($record, JSON_INVALID_UTF8_SUBSTITUTE | JSON_UNESCAPED_UNICODE));
    }
}
