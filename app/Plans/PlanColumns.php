<?php

namespace App\Plans;

use App\Looking\Looker;
use App\Looking\Looks;
use App\Models\Extract;
use App\Models\Migration;
use App\Reading\TableOpener;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\ReadingError;

/** The columns of the extracts of a plan, as far as they can be known before anything is frozen. */
final class PlanColumns implements Looker
{
    /**
     * @param  array<string, mixed>  $plan
     * @param  string|null  $folder  of a plan read on the command line; its files are opened for their headers
     * @return array<string, Columns|null> SOURCE/extract → columns; null where they will be known once it is read
     */
    public static function of(array $plan, ?Migration $migration, ?string $folder): array
    {
        $known = self::frozen($migration);
        $extracts = [];
        foreach ($plan['sources'] as $source) {
            foreach ($source['extracts'] ?? [] as $extract) {
                $extracts["$source[code]/$extract[name]"] = $extract;
            }
        }
        $columns = self::ofFiles($extracts, $folder);
        foreach ($extracts as $name => $extract) {
            $columns[$name] ??= self::asRead($extract, $known[$name] ?? null);
        }

        return array_replace(array_fill_keys(array_keys($extracts), null), $columns);
    }

    /**
     * @param  array<string, array<string, mixed>>  $extracts
     * @return array<string, Columns> of those whose files are there
     */
    private static function ofFiles(array $extracts, ?string $folder): array
    {
        $files = [];
        foreach ($folder === null ? [] : $extracts as $name => $extract) {
            $path = isset($extract['file']) ? PlanFiles::below($folder, $extract['file']) : null;
            $files += $path === null ? [] : [$name => ['path' => $path, 'reader' => $extract['reader'] ?? []]];
        }
        try {
            $found = $files === [] ? [] : Looks::ask(self::class, ['files' => $files]);
        } catch (ReadingError) {
            return [];
        }

        return array_map(Columns::fromArray(...), array_filter($found));
    }

    public static function look(array $given): mixed
    {
        return array_map(fn (array $of) => self::ofFile($of['path'], $of['reader'])?->toArray(), $given['files']);
    }

    /**
     * After freezing: as they are.
     *
     * @return array<string, Columns|null>
     */
    public static function now(Migration $migration): array
    {
        return array_map(fn (Extract $e) => $e->columns === null ? null : $e->tidyColumns(), self::frozen($migration));
    }

    /** @return array<string, Extract> SOURCE/extract → extract */
    private static function frozen(?Migration $migration): array
    {
        $known = [];
        foreach ($migration?->extracts()->with('source')->get() ?? [] as $extract) {
            $known["{$extract->source?->code}/$extract->name"] = $extract;
        }

        return $known;
    }

    /** @param  array<string, mixed>  $reader */
    private static function ofFile(string $path, array $reader): ?Columns
    {
        try {
            $settings = Formats::settings($reader);

            return $settings->connection() !== null
                ? null
                : (new TableOpener)->open($settings, $path, null, true)->columns();
        } catch (ReadingError|\InvalidArgumentException) {
            // What is wrong with the file is said when it is frozen.
            return null;
        }
    }

    /** @param  array<string, mixed>  $extract */
    private static function asRead(array $extract, ?Extract $known): ?Columns
    {
        if ($known?->columns === null) {
            return null;
        }
        try {
            $reader = Formats::settings($extract['reader'] ?? [])->toArray();
        } catch (ReadingError|\InvalidArgumentException) {
            return null;
        }

        // A file that is not here may have other columns than the take; a table or feed that is read alike will not.
        return $reader == $known->settings()->toArray() ? $known->tidyColumns() : null;
    }
}
