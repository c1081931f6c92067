<?php

namespace App\Freezing;

use App\Models\Extract;
use App\Models\Source;
use App\Reading\Part;
use Baggage\Core\Reading\ReaderSettings;

/**
 * What an uploaded file would be frozen as. One of a name that was read before is the next delivery of it: the same tables become the
 * next takes of the extracts they were read as, and what was left aside then is left aside again.
 */
final readonly class NextDelivery
{
    /** What says which table of a file is meant. */
    private const TABLE = ['kind', 'member', 'sheet', 'table', 'records', 'list'];

    /**
     * @param  list<array{part: Part, extract: Extract, settings: ReaderSettings}>  $tables
     * @param  list<string>  $leftOut  tables that were not read before
     * @param  list<string>  $missing  extracts whose table is not there
     */
    private function __construct(public array $tables, public array $leftOut = [], public array $missing = [])
    {
    }

    /**
     * @param  list<Part>  $parts  of the file
     * @param  array<int, array{name: string, settings: ReaderSettings}>  $decided  by part, as somebody decided about it
     */
    public static function of(Source $source, string $file, array $parts, array $decided = []): self
    {
        $known = self::known($source, $file);
        $tables = $leftOut = $found = [];
        foreach ($parts as $at => $part) {
            $as = $decided[$at] ?? null;
            $extract = $as === null ? self::extractOf($known, $part) : $source->extracts()->firstOrNew(['name' => $as['name']]);
            if ($as === null && ($part->settings === null || $part->refused !== null)) {
                continue;
            }
            if ($extract === null && $known !== []) {
                $leftOut[] = $part->name;

                continue;
            }
            $extract ??= $source->extracts()->firstOrNew(['name' => self::name($part)]);
            $like = $extract->exists && $part->isLike($extract) ? $extract->settings() : $part->settings;
            $settings = $as['settings'] ?? $like;
            if ($settings !== null) {
                $tables[] = ['part' => $part, 'extract' => $extract, 'settings' => $settings];
                $found[] = $extract->name;
            }
        }
        $names = array_map(fn (Extract $e) => $e->name, $known);

        return new self($tables, $leftOut, array_values(array_diff($names, $found)));
    }

    /** The extract a part of a file was read as, or has the name of. */
    public static function before(Source $source, string $file, Part $part): ?Extract
    {
        return self::extractOf(self::known($source, $file), $part) ?? $source->extracts()->where('name', self::name($part))->first();
    }

    public static function name(Part $part): string
    {
        return mb_substr(str_replace('/', '-', $part->name), 0, 100);
    }

    /** @return list<Extract> of the source, those last read from a file of that name */
    private static function known(Source $source, string $file): array
    {
        $name = mb_strtolower(basename($file));

        return array_values($source->extracts()->with('take')->orderBy('id')->get()
            ->filter(fn (Extract $e) => ! $e->isMade() && mb_strtolower(basename((string) $e->take?->file_name)) === $name)
            ->all());
    }

    /** @param  list<Extract>  $known */
    private static function extractOf(array $known, Part $part): ?Extract
    {
        $table = fn (?ReaderSettings $of) => array_intersect_key($of?->toArray() ?? [], array_flip(self::TABLE));
        foreach ($known as $extract) {
            if ($part->settings !== null && $table($part->settings) == $table($extract->settings())) {
                return $extract;
            }
        }

        return null;
    }

    /** What was not frozen, in words; empty where all was. */
    public function says(): string
    {
        return ($this->leftOut === [] ? '' : ' Not read before, and left aside: '.implode(', ', $this->leftOut).'.')
            .($this->missing === [] ? '' : ' Not in it any more: '.implode(', ', $this->missing).'.');
    }
}
