<?php

namespace Tests\Support;

use Illuminate\Support\Facades\DB;

/**
 * What many tests begin with, made once in a run and put back for each: all rows of the application's database and of the target's, and
 * the files of takes. Only into empty tables, so that nothing a test made itself is mixed with it.
 */
final class Prepared
{
    /** @var array<string, array{database: string, tables: array<string, string>, files: array<string, string>}> by key */
    private static array $kept = [];

    /** @return bool whether it was put back */
    public static function restore(string $key, string $target): bool
    {
        $kept = self::$kept[$key] ?? null;
        if ($kept === null || ! self::isEmpty()) {
            return false;
        }
        foreach ($kept['files'] as $path => $copy) {
            is_file($path) || copy($copy, $path);
        }
        DB::unprepared('SET FOREIGN_KEY_CHECKS = 0, UNIQUE_CHECKS = 0');
        $named = 'SELECT table_name AS t FROM information_schema.tables WHERE table_schema = ?';
        $there = array_column(DB::select($named, [$target]), 't', 't');
        foreach ($kept['tables'] as $table => $columns) {
            [$where, $name] = explode('.', $table);
            $into = ($where === 'own' ? DB::getDatabaseName() : $target).".`$name`";
            $from = "{$kept['database']}.`{$where}_$name`";
            if ($where === 'target') {
                isset($there[$name])
                    ? DB::unprepared("TRUNCATE TABLE $into")
                    : DB::unprepared("CREATE TABLE $into LIKE $from");
            }
            DB::unprepared("INSERT INTO $into ($columns) SELECT $columns FROM $from");
        }
        DB::unprepared('SET FOREIGN_KEY_CHECKS = 1, UNIQUE_CHECKS = 1');

        return true;
    }

    public static function keep(string $key, string $target, string $folder): void
    {
        if (isset(self::$kept[$key]) || DB::table('users')->exists()) {
            return;
        }
        $database = 'kept_'.getmypid().'_'.count(self::$kept);
        DB::unprepared("CREATE OR REPLACE DATABASE $database CHARACTER SET utf8mb4");
        $tables = [];
        foreach (['own' => DB::getDatabaseName(), 'target' => $target] as $where => $schema) {
            foreach (self::columns($schema) as $table => $columns) {
                if ($table === 'schema_migrations' || ($where === 'own' && ! DB::table($table)->exists())) {
                    continue;
                }
                DB::unprepared("CREATE TABLE $database.`{$where}_$table` LIKE $schema.`$table`");
                DB::unprepared("INSERT INTO $database.`{$where}_$table` ($columns) SELECT $columns FROM $schema.`$table`");
                $tables["$where.$table"] = $columns;
            }
        }
        $files = [];
        is_dir($folder) || mkdir($folder, 0777, true);
        foreach (DB::table('takes')->whereNotNull('file')->pluck('file') as $path) {
            if (is_file($path)) {
                copy($path, $files[$path] = "$folder/".basename($path));
            }
        }
        self::$kept[$key] = ['database' => $database, 'tables' => $tables, 'files' => $files];
    }

    private static function isEmpty(): bool
    {
        return ! DB::table('migrations')->exists() && ! DB::table('takes')->exists();
    }

    /** @return array<string, string> table → its columns that are not computed */
    private static function columns(string $schema): array
    {
        $columns = [];
        $found = DB::select(
            "SELECT c.table_name AS t, c.column_name AS c FROM information_schema.columns c
            JOIN information_schema.tables n ON n.table_schema = c.table_schema AND n.table_name = c.table_name
            WHERE c.table_schema = ? AND n.table_type = 'BASE TABLE' AND c.generation_expression IS NULL ORDER BY c.ordinal_position",
            [$schema],
        );
        foreach ($found as $one) {
            $columns[$one->t][] = "`$one->c`";
        }

        return array_map(fn (array $of) => implode(',', $of), $columns);
    }
}
