<?php

namespace App\Freezing;

use App\Reading\Part;
use App\Reading\Parts;
use App\Reading\TableOpener;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Container\Attributes\Config;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Str;

/** Uploaded files between upload and freezing: kept under names of our own, never served, never run. */
final class Incoming
{
    /** @param  string  $folder  of the application's own, where uploads wait below incoming/ */
    public function __construct(#[Config('baggage.vault')] private readonly string $folder)
    {
    }

    /** @throws ReadingError when nothing here can read it; nothing is kept then */
    public function keep(UploadedFile $file, int $source): string
    {
        if (! is_dir("$this->folder/incoming")) {
            mkdir("$this->folder/incoming", 0770, true);
        }
        $name = mb_substr($file->getClientOriginalName(), 0, 200);
        $parts = Parts::of($file->getRealPath() ?: $file->getPathname(), $name);
        $id = (string) Str::uuid();
        file_put_contents(
            "$this->folder/incoming/$id.json",
            json_encode(
                [
                    'name' => $name,
                    'source' => $source,
                    'parts' => array_map(
                        fn (Part $p) => [
                            'name' => $p->name,
                            'settings' => $p->settings?->toArray(),
                            'reasons' => $p->reasons,
                            'refused' => $p->refused,
                        ],
                        $parts,
                    ),
                ],
                JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE,
            ),
        );
        $file->move("$this->folder/incoming", "$id.data");

        return $id;
    }

    /**
     * Files that came together and wait together.
     *
     * @param  list<string>  $ids
     */
    public function together(array $ids): void
    {
        foreach ($ids as $id) {
            $this->note($id, ['together' => $ids]);
        }
    }

    /**
     * How a part is to be read, and as which extract, as somebody decided before it is frozen.
     *
     * @param  array{name: string, settings: array<string, mixed>}  $decided  settings as ReaderSettings::toArray()
     */
    public function decide(string $id, int $part, array $decided): void
    {
        $this->note($id, ['decided' => [$part => $decided] + ($this->noted($id)['decided'] ?? [])]);
    }

    /** @param  array<string, mixed>  $more */
    private function note(string $id, array $more): void
    {
        $path = "$this->folder/incoming/$id.json";
        $text = json_encode($more + $this->noted($id), JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE);
        // Whole, or not at all.
        file_put_contents("$path.new", $text);
        rename("$path.new", $path);
    }

    /** @return array<string, mixed> */
    private function noted(string $id): array
    {
        return json_decode((string) file_get_contents("$this->folder/incoming/$id.json"), true);
    }

    /**
     * @return array{
     *     name: string, source: int, parts: list<Part>, together: list<string>,
     *     decided: array<int, array{name: string, settings: ReaderSettings}>,
     * }|null
     */
    public function find(string $id): ?array
    {
        if (! Str::isUuid($id) || ! is_file("$this->folder/incoming/$id.data")) {
            return null;
        }
        $kept = $this->noted($id);
        $still = fn (string $other) => is_file("$this->folder/incoming/$other.data");
        $kept['together'] = array_values(array_filter($kept['together'] ?? [$id], $still));
        $kept['decided'] = array_map(
            fn (array $d) => ['name' => $d['name'], 'settings' => Formats::settings($d['settings'])],
            $kept['decided'] ?? [],
        );
        $kept['parts'] = array_map(
            fn ($p) => new Part(
                $p['name'],
                $p['settings'] === null ? null : Formats::settings($p['settings']),
                $p['reasons'],
                $p['refused'],
            ),
            $kept['parts'],
        );

        return $kept;
    }

    /**
     * Line and cells of the first rows.
     *
     * @return array{columns: Columns|null, rows: list<array{int, list<string|null>}>, error: string|null}
     */
    public function preview(string $id, ReaderSettings $settings, int $count): array
    {
        return self::look($settings, $this->path($id), $count);
    }

    /** @return array{columns: Columns|null, rows: list<array{int, list<string|null>}>, error: string|null} */
    public static function look(ReaderSettings $settings, string $path, int $count): array
    {
        $columns = null;
        $rows = [];
        try {
            $table = (new TableOpener)->open($settings, $path, null, true);
            $columns = $table->columns();
            if ($columns->count() > (int) config('baggage.column_limit')) {
                throw ReadingError::tooWide($columns->count(), (int) config('baggage.column_limit'));
            }
            foreach ($table->rows() as $row) {
                $rows[] = [$row->line, $row->cells];
                if (count($rows) === $count) {
                    break;
                }
            }
            if ($rows === []) {
                throw ReadingError::nothingBelowHeader();
            }
        } catch (ReadingError $e) {
            return ['columns' => $columns, 'rows' => $rows, 'error' => $e->getMessage()];
        }

        return ['columns' => $columns, 'rows' => $rows, 'error' => null];
    }

    /**
     * @param  bool  $moreWanted  whether other tables of the file may still be frozen
     * @return string path of the file for good
     */
    public function toVault(string $id, bool $moreWanted = false): string
    {
        $path = "$this->folder/$id.data";
        if ($moreWanted) {
            // One file on the disk under two names.
            is_file($path) || link($this->path($id), $path);

            return $path;
        }
        rename($this->path($id), $path);
        @unlink("$this->folder/incoming/$id.json");

        return $path;
    }

    private function path(string $id): string
    {
        return "$this->folder/incoming/$id.data";
    }
}
