<?php

namespace Baggage\Core\Reading\Query;

/**
 * Whether a text is one SELECT that only reads. A second line, behind sessions that are opened for reading: servers differ in what
 * is a string and what a comment, so the text has to be harmless as each of them reads it. Strings, quoted names and comments hold
 * what they like.
 */
final class SelectOnly
{
    private const LONGEST = 100_000;

    /** Beginnings of statements that change something, where a statement may begin: first, or beside a parenthesis. */
    private const STATEMENTS = 'insert|update|delete|merge|replace\s+into|drop|alter|create|truncate|grant|revoke|attach|detach|pragma'
        .'|call|exec|execute|declare|begin|copy|vacuum|load\s+data|lock\s+tables?|set|use|do';

    /** Of these only what can stand after a parenthesis that closes a named SELECT. */
    private const AFTER_WITH = 'insert|update|delete|merge|replace\s+into';

    /** Functions that read files, wait, lock, count on, reach elsewhere, or run what they are given. */
    private const FUNCTIONS = 'load_file|get_lock|release_lock|release_all_locks|is_free_lock|sleep|benchmark|master_pos_wait'
        .'|master_gtid_wait|sys_exec|sys_eval|pg_sleep|pg_sleep_for|pg_sleep_until|pg_read_file|pg_read_binary_file|pg_ls_dir'
        .'|pg_stat_file|lo_import|lo_export|lo_unlink|pg_terminate_backend|pg_cancel_backend|pg_reload_conf|pg_advisory_\w+'
        .'|pg_try_advisory_\w+|nextval|setval|set_config|dblink\w*|query_to_xml\w*|table_to_xml\w*|database_to_xml\w*|openrowset'
        .'|opendatasource|openquery|xp_\w+|sp_\w+|load_extension|readfile|writefile|edit|fts3_tokenizer';

    private const LOCKS = '\bfor\s+(?:no\s+key\s+|key\s+)?(?:update|share)\b|\block\s+in\s+share\s+mode\b'
        .'|\b(?:updlock|xlock|tablockx?|holdlock)\b';

    /** @return string|null what is wrong with it; null where nothing is */
    public static function refuses(string $sql): ?string
    {
        if (strlen($sql) > self::LONGEST) {
            return 'A SELECT has at most '.number_format(self::LONGEST).' characters.';
        }
        if (str_contains($sql, "\0")) {
            return 'The SELECT holds a character no text has.';
        }
        $readings = array_filter([self::code($sql, true), self::code($sql, false)], fn (?string $code) => $code !== null);
        if ($readings === []) {
            return 'A quote or a comment in the SELECT is not closed.';
        }
        foreach ($readings as $code) {
            $why = self::against($code);
            if ($why !== null) {
                return $why;
            }
        }

        return null;
    }

    /**
     * What is neither string nor comment, as a server reads it: MariaDB and MySQL, or the others.
     *
     * @return string|null null where it is not closed, so that such a server refuses it itself
     */
    public static function code(string $sql, bool $asMysql): ?string
    {
        $code = '';
        for ($at = 0, $end = strlen($sql); $at < $end;) {
            [$length, $stands] = self::part($sql, $at, $asMysql);
            if ($length === null) {
                return null;
            }
            $code .= $stands ?? substr($sql, $at, $length);
            $at += $length;
        }

        return $code;
    }

    /** @return array{int|null, string|null} its length, null where it is not closed; and what stands for it, null for itself */
    private static function part(string $sql, int $at, bool $asMysql): array
    {
        // MySQL, "Comments": two hyphens need a blank after them, and # begins one; PostgreSQL, 4.1.5: they nest (values from memory).
        $line = $asMysql ? '/\G(?:--(?=[\s\x00-\x1F]|$)|#)[^\n]*/' : '/\G--[^\n]*/';
        $slashes = $asMysql ? '\\\\' : '';
        $inside = fn (string $quote) => "/\\G$quote(?:[^$quote$slashes]|$quote$quote".($asMysql ? '|\\\\.' : '').")*+$quote/s";
        $here = $sql[$at];
        if (preg_match($line, $sql, $m, 0, $at) === 1) {
            return [strlen($m[0]), ' '];
        }
        if (preg_match('~\G/\*(?!!|M!)~', $sql, $m, 0, $at) === 1) {
            $nested = $asMysql ? '~\G/\*.*?\*/~s' : '~\G(/\*(?:[^*/]++|\*(?!/)|/(?!\*)|(?1))*+\*/)~s';

            return preg_match($nested, $sql, $m, 0, $at) === 1 ? [strlen($m[0]), ' '] : [null, null];
        }
        if ($here === "'" || $here === '"') {
            $isClosed = preg_match($inside($here), $sql, $m, 0, $at) === 1;

            return $isClosed ? [strlen($m[0]), $here.$here] : [null, null];
        }
        if ($here === '`' && preg_match('/\G`(?:[^`]|``)*+`/', $sql, $m, 0, $at) === 1) {
            return [strlen($m[0]), '""'];
        }
        if ($here === '`') {
            return $asMysql ? [null, null] : [1, null];
        }
        if (preg_match('/\G\[[\w $.-]+\]/', $sql, $m, 0, $at) === 1) {
            return [strlen($m[0]), '""'];
        }
        preg_match('/\G(?:[\w$]+|.)/s', $sql, $m, 0, $at);

        return [strlen($m[0] ?? ' '), null];
    }

    private static function against(string $code): ?string
    {
        $bare = trim($code);
        if (preg_match('~/\*(?:!|M!)~', $bare) === 1) {
            return 'A comment that begins with /*! is run by the server: it has no place in a SELECT.';
        }
        if (preg_match('/^\(*\s*(?:select|with)\b/i', $bare) !== 1) {
            return 'Only a SELECT may be run on a source: it has to begin with SELECT or WITH.';
        }
        if (str_contains(rtrim($bare, "; \n\r\t"), ';')) {
            return 'One SELECT at a time: a semicolon stands inside it.';
        }
        $patterns = [
            '/(?:^|\()\s*('.self::STATEMENTS.')\b(?!\s*[(,.)=])/i',
            '/\)\s*('.self::AFTER_WITH.')\b(?!\s*[,.)=(])/i',
            '/\b(into)\b/i',
            '/('.self::LOCKS.')/i',
            '/\b('.self::FUNCTIONS.')\s*\(/i',
        ];
        foreach ($patterns as $pattern) {
            if (preg_match($pattern, $bare, $m) === 1) {
                return 'Sources are only read: "'.strtoupper((string) preg_replace('/\s+/', ' ', $m[1])).'" has no place in a SELECT.';
            }
        }

        return null;
    }
}
