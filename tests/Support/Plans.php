<?php

namespace Tests\Support;

use Illuminate\Support\Facades\DB;

/** What was asked of the database, whoever asked and however, and by which way the server finds it. */
final class Plans
{
    /** Tables with as many lines as there are rows, or a share of them. */
    private const TABLES = [
        'staged_rows', 'column_values', 'take_changes', 'key_rows', 'orphan_rows', 'finding_rows', 'check_rows', 'outcomes', 'row_causes',
        'outcome_log', 'values_before', 'links', 'match_entries', 'announced_keys', 'due_rows', 'waivers', 'row_places',
        'correction_places', 'contested_rows',
    ];

    /** Work of a worker that is about all of it. */
    private const ALL = [
        // What the round is counted by, line by line.
        'select load_id, outcome, COUNT(*) AS n from `outcomes`',
    ];

    /** Statements the server has answered in this session. */
    public static function questions(): int
    {
        return (int) ((array) DB::selectOne("SHOW SESSION STATUS LIKE 'Questions'"))['Value'];
    }

    /** @return array<string, string> without its values → a statement that reads tables of rows */
    public static function during(\Closure $work): array
    {
        DB::statement('TRUNCATE TABLE mysql.general_log');
        DB::statement("SET GLOBAL log_output = 'TABLE'");
        DB::statement('SET GLOBAL general_log = ON');
        try {
            $work();
        } finally {
            DB::statement('SET GLOBAL general_log = OFF');
        }
        $asked = [];
        $log = DB::table('mysql.general_log')->whereIn('command_type', ['Query', 'Execute'])->pluck('argument');
        foreach ($log as $sql) {
            $named = '/[`\s(,.](?:'.implode('|', self::TABLES).')[`\s]/';
            $reads = '/^\s*\(*(?:select|update|delete|insert(?: ignore)?\s+into\s[^;]*\bselect)\b/i';
            // Hashes lie in a table of the session that asks, and are gone with it.
            $isMeant = preg_match($reads, (string) $sql) === 1 && preg_match($named, (string) $sql) === 1;
            if ($isMeant && ! str_contains((string) $sql, 'value_hashes')) {
                $asked[self::bare((string) $sql)] ??= (string) $sql;
            }
        }

        return $asked;
    }

    /**
     * Statements that read a table of rows from end to end.
     *
     * @param  array<string, string>  $asked
     * @return array<string, string> statement → how it is read
     */
    public static function poor(array $asked): array
    {
        $poor = [];
        foreach ($asked as $bare => $sql) {
            if (array_filter(self::ALL, fn (string $all) => str_contains($sql, $all)) !== []) {
                continue;
            }
            foreach (DB::select("EXPLAIN $sql") as $step) {
                $of = self::table($sql, (string) $step->table);
                $isFull = $step->type === 'ALL' || ($step->type === 'index' && ! str_contains(strtolower($sql), ' limit '));
                if ($isFull && in_array($of, self::TABLES, true)) {
                    $poor[$bare] = "$of by $step->type, {$step->rows} rows, $step->Extra";
                }
            }
        }

        return $poor;
    }

    private static function bare(string $sql): string
    {
        $sql = preg_replace(["/'(?:[^'\\\\]|\\\\.|'')*'/s", '/\b\d+\b/', '/\s+/', '/\?(?:\s*,\s*\?)+/'], ['?', '?', ' ', '?'], $sql);

        return (string) $sql;
    }

    /** The table an alias stands for. */
    private static function table(string $sql, string $alias): string
    {
        $found = preg_match('/\b(?:from|join|update|into|,)\s+`?(\w+)`?\s+(?:as\s+)?`?'.preg_quote($alias, '/').'`?\b/i', $sql, $m);

        return $found === 1 && ! in_array(strtolower($m[1]), ['select', 'from', 'join'], true) ? $m[1] : $alias;
    }
}
