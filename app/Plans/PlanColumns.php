<?php

namespace App\Plans;

use App\Models\Extract;
use App\Models\Migration;
use App\Reading\TableOpener;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\ReadingError;

/** The columns of the extracts of a plan, as far as they can be known before anything is frozen. */
final class PlanColumns
{
    /**
     * @param  array<string, mixed>  $plan
     * @param  string|null  $folder  of a plan read on the command line; its files are opened for their headers
     * @return array<string, Columns|null> SOURCE/extract → columns; null where they will be known once it is read
     */
    public static function of(array $plan, ?Migration $migration, ?string $folder): array
    {
        $known = self::frozen($migration);
        $columns = [];
        foreach ($plan['sources'] as $source) {
            foreach ($source['extracts'] ?? [] as $extract) {
                $name = "$source[code]/$extract[name]";
                $columns[$name] = self::ofFile($extract, $folder) ?? self::asRead($extract, $known[$name] ?? null);
            }
        }

        return $columns;
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

    /** @param  array<string, mixed>  $extract */
    private static function ofFile(array $extract, ?string $folder): ?Columns
    {
        $path = $folder === null || ! isset($extract['file']) ? null : PlanFiles::below($folder, $extract['file']);
        try {
            $settings = Formats::settings($extract['reader'] ?? []);

            return $path === null || $settings->connection() !== null
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
