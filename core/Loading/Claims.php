<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Targets\Fold;

/**
 * What a row claims for itself: its legacy key, what it is matched by, values that must be unique, a record it could change.
 *
 * Each claim is a hash. Two rows of an entity that could be in each other's way have one in common, so rows that share none may go in
 * any order; that rows share one need not mean anything, for values are folded more coarsely than any target compares them.
 */
final readonly class Claims
{
    public function __construct(private LoadDefinition $load, private Matcher $matcher)
    {
    }

    /** How many there may be of a row. */
    public static function most(LoadDefinition $load): int
    {
        return 1 + 2 * count($load->matches) + count($load->entity->uniques) + (int) $load->reads();
    }

    /** @return non-empty-list<string> hashes of 8 bytes, each once */
    public function of(Journey $journey): array
    {
        $claims = [self::hash("key\x1F{$this->load->rowSpace()}\x1F$journey->legacyKey")];
        foreach ($journey->matchKeys as $key) {
            $claims[] = self::hash("match\x1F$key");
        }
        foreach ($this->load->entity->uniques as $fields) {
            $value = $this->unique($journey, $fields);
            if ($value !== null) {
                $claims[] = self::hash('unique'.implode("\x1F", $fields)."\x1E$value");
            }
        }
        foreach ($this->matcher->records($journey) as $key) {
            $claims[] = self::hash("record\x1F$key");
        }

        return count($claims) === 1 ? $claims : array_values(array_unique($claims));
    }

    /** @param  list<string>  $fields  of a unique key */
    private function unique(Journey $journey, array $fields): ?string
    {
        $parts = [];
        foreach ($fields as $field) {
            $value = $journey->values[$field] ?? $this->load->entity->fields[$field]->default ?? null;
            if ($value === null) {
                return null;
            }
            $parts[] = Fold::of($value);
        }

        return implode("\x1F", $parts);
    }

    private static function hash(string $claim): string
    {
        return hash('xxh3', $claim, true);
    }
}
