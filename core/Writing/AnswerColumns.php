<?php

namespace Baggage\Core\Writing;

/** Which column of a sheet that came back is which: by its title, and where several have the same one, in their order. */
final readonly class AnswerColumns
{
    /**
     * @param  array<int, int>  $own  position in the take → in the sheet
     * @param  list<string>  $missing  titles that are not there
     * @param  list<string>  $unknown  titles nobody wrote
     */
    private function __construct(public array $own, public array $missing, public array $unknown)
    {
    }

    /**
     * @param  list<string>  $expected  of the client's own columns
     * @param  list<string>  $added  of those that were added, in any language
     * @param  list<string>  $found  as the sheet has them
     * @param  array<string, string>  $as  title in the sheet → the column it is, as somebody said; '' for none
     */
    public static function of(array $expected, array $added, array $found, array $as): self
    {
        $places = [];
        foreach ($found as $at => $title) {
            $title = trim($title);
            $places[self::plain($as[$title] ?? $title)][] = $at;
        }
        $own = $missing = [];
        foreach ($expected as $position => $title) {
            $plain = self::plain($title);
            $at = isset($places[$plain]) ? array_shift($places[$plain]) : null;
            $at === null ? $missing[] = $title : $own[$position] = $at;
        }
        $unknown = [];
        $known = array_map(self::plain(...), [...$added, '']);
        foreach ($places as $title => $left) {
            foreach (in_array((string) $title, $known, true) ? [] : $left as $at) {
                $unknown[] = trim($found[$at]);
            }
        }

        return new self($own, $missing, array_values(array_diff($unknown, array_keys(array_filter($as, fn (string $t) => $t === '')))));
    }

    /** How many columns stand first and in their order as they were written; 0 where one of them does not. */
    public function asTheyStood(): int
    {
        $n = count($this->own);

        return $this->missing === [] && $this->own === range(0, $n - 1) ? $n : 0;
    }

    private static function plain(string $title): string
    {
        return (string) preg_replace('/\s+/u', ' ', trim(ltrim(trim($title), "'")));
    }
}
