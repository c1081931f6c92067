<?php

namespace Baggage\Core\Reconciling;

/** Counts of rows that come with a delivery, as a client writes them down: names of files or tables, and how many rows each has. */
final class CoveringSheet
{
    /**
     * @param  iterable<list<string|null>>  $rows  cells
     * @param  int  $name  position of the column with names
     * @param  int  $count  position of the column with numbers of rows
     * @return array<string, int> folded name → rows; a name that is there twice with two numbers says nothing
     */
    public static function counts(iterable $rows, int $name, int $count): array
    {
        $counts = $twice = [];
        foreach ($rows as $cells) {
            $of = self::folded((string) ($cells[$name] ?? ''));
            $rowCount = preg_replace('/[\s.,\'’]+/u', '', (string) ($cells[$count] ?? ''));
            if ($of === '' || preg_match('/^\d{1,12}$/D', (string) $rowCount) !== 1) {
                continue;
            }
            if (isset($counts[$of]) && $counts[$of] !== (int) $rowCount) {
                $twice[$of] = true;
            }
            $counts[$of] = (int) $rowCount;
        }

        return array_diff_key($counts, $twice);
    }

    /** What two names have in common that mean one file: no folder, no ending, no capitals. */
    public static function folded(string $name): string
    {
        $name = trim((string) preg_replace('/^.*[\/\\\\]/s', '', trim($name)));

        return mb_strtolower((string) preg_replace('/\.[A-Za-z0-9]{1,5}$/D', '', $name));
    }
}
