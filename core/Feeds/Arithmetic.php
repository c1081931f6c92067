<?php

namespace Baggage\Core\Feeds;

/** How the rows of the extracts a feed is made of become its rows. */
final class Arithmetic
{
    private const EXAMPLES = 20;

    /** Rows the feed gets. */
    public int $rows = 0;

    /** @var list<array{name: string, rows: int, take: int}> */
    public array $extracts = [];

    /** Rows of the first extract with exactly one partner. */
    public int $matched = 0;

    /** Rows of the first extract with several. */
    public int $multiplied = 0;

    /** Rows those several partners add. */
    public int $added = 0;

    /** Rows of the first extract without a partner, and those whose key is blank among them. */
    public int $alone = 0;

    public int $blank = 0;

    /** Rows of the second extract that no row of the first has for a partner. */
    public int $unused = 0;

    /** Rows that are the repetition of an earlier value, or that have none. */
    public int $repeated = 0;

    /** @var list<int> rows of the first extract that are multiplied, the first of them */
    public array $multipliedRows = [];

    /** @var list<int> */
    public array $aloneRows = [];

    /** @param  int  $partners of a row of the first extract */
    public function partners(int $row, int $partners, bool $blank = false): void
    {
        $this->rows += max(1, $partners);
        if ($partners === 0) {
            $this->alone++;
            $this->blank += $blank ? 1 : 0;
            if (count($this->aloneRows) < self::EXAMPLES) {
                $this->aloneRows[] = $row;
            }
        } elseif ($partners === 1) {
            $this->matched++;
        } else {
            $this->multiplied++;
            $this->added += $partners - 1;
            if (count($this->multipliedRows) < self::EXAMPLES) {
                $this->multipliedRows[] = $row;
            }
        }
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return array_filter(get_object_vars($this), fn ($v) => $v !== 0 && $v !== []) + ['rows' => $this->rows];
    }

    /**
     * In sentences, so that the sum can be followed.
     *
     * @param  array<string, mixed>  $a  as toArray() gives it
     * @return list<string>
     */
    public static function say(Combination $how, array $a): array
    {
        $n = fn (string $what) => number_format((int) ($a[$what] ?? 0));
        $rows = fn (int $i) => number_format((int) $a['extracts'][$i]['rows'])." rows of {$a['extracts'][$i]['name']}";

        return match ($how) {
            Combination::Join => [
                "Of {$rows(0)} {$n('matched')} have one partner in {$a['extracts'][1]['name']}, {$n(
                    'multiplied',
                )} have several and {$n('alone')} have none"
                .(($a['blank'] ?? 0) > 0 ? " ({$n('blank')} of them because their key is blank)" : '').'.',
                "{$n('matched')} + {$n('multiplied')} + {$n('alone')} = "
                .number_format((int) $a['extracts'][0]['rows'])
                .(($a['added'] ?? 0) > 0 ? ", and the further partners add {$n('added')}" : '')
                .": the feed has {$n('rows')} rows.",
                "Of {$rows(1)} {$n('unused')} are nobody's partner and are not in the feed.",
            ],
            Combination::Stack => [
                implode(' + ', array_map(fn ($e) => number_format((int) $e['rows'])." ($e[name])", $a['extracts']))
                ." = {$n('rows')} rows.",
            ],
            Combination::Position => [
                "{$rows(0)} beside {$rows(1)}: the feed has {$n('rows')} rows"
                .(($a['alone'] ?? 0) + ($a['unused'] ?? 0) > 0
                    ? '; '.number_format((int) ($a['alone'] ?? 0) + (int) ($a['unused'] ?? 0))
                        .' have nothing beside them'
                    : '')
                .'.',
            ],
            Combination::Distinct => [
                "{$rows(0)}: {$n('rows')} different values; {$n('repeated')} rows repeat one or have none ({$n(
                    'blank',
                )} have none).",
            ],
        };
    }
}
