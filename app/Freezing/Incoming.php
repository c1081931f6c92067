<?php

namespace App\Freezing;

use App\Looking\LookGoing;
use App\Reading\Part;
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
    public function __construct(#[Config('baggage.vault')] private readonly string $folder, private readonly Look $look)
    {
    }

    /** @throws ReadingError when nothing here can read it; nothing is kept then */
    public function keep(UploadedFile $file, int $source): string
    {
        if (! is_dir("$this->folder/incoming")) {
            mkdir("$this->folder/incoming", 0700, true);
        }
        $name = mb_substr($file->getClientOriginalName(), 0, 200);
        $id = (string) Str::uuid();
        $file->move("$this->folder/incoming", "$id.data");
        try {
            $parts = $this->parts($id, $name);
        } catch (\Throwable $e) {
            @unlink($this->path($id));
            throw $e;
        }
        $this->write($id, ['name' => $name, 'source' => $source, 'parts' => $parts]);

        return $id;
    }

    /**
     * @return list<array<string, mixed>>|null as Part::toArray(); null while a worker still looks
     *
     * @throws ReadingError
     */
    private function parts(string $id, string $name): ?array
    {
        try {
            return array_map(fn (Part $part) => $part->toArray(), $this->look->parts($this->path($id), $name));
        } catch (LookGoing) {
            return null;
        }
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
        $this->write($id, $more + $this->noted($id));
    }

    /** @param  array<string, mixed>  $all */
    private function write(string $id, array $all): void
    {
        $path = "$this->folder/incoming/$id.json";
        $text = json_encode($all, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE);
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
     * }|null without a part while a worker still looks what it holds
     */
    public function find(string $id): ?array
    {
        if (! Str::isUuid($id) || ! is_file("$this->folder/incoming/$id.data")) {
            return null;
        }
        $kept = $this->noted($id);
        if ($kept['parts'] === null) {
            try {
                $kept['parts'] = $this->parts($id, $kept['name']);
            } catch (ReadingError $e) {
                $kept['parts'] = [(new Part($kept['name'], null, [], $e->getMessage()))->toArray()];
            }
            $kept['parts'] === null ? null : $this->note($id, ['parts' => $kept['parts']]);
        }
        $still = fn (string $other) => is_file("$this->folder/incoming/$other.data");
        $kept['together'] = array_values(array_filter($kept['together'] ?? [$id], $still));
        $kept['decided'] = array_map(
            fn (array $d) => ['name' => $d['name'], 'settings' => Formats::settings($d['settings'])],
            $kept['decided'] ?? [],
        );
        $kept['parts'] = array_map(Part::fromArray(...), $kept['parts'] ?? []);

        return $kept;
    }

    /**
     * Line and cells of the first rows.
     *
     * @return array{columns: Columns|null, rows: list<array{int, list<string|null>}>, error: string|null}
     *
     * @throws LookGoing
     */
    public function preview(string $id, ReaderSettings $settings, int $count): array
    {
        $seen = $this->look->rows($settings, $this->path($id), $count);

        return $seen['error'] === null && $seen['rows'] === []
            ? ['error' => ReadingError::nothingBelowHeader()->getMessage()] + $seen
            : $seen;
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

    /** @return list<array{id: string, name: string, source: int, bytes: int, since: \DateTimeImmutable}> */
    public function waiting(): array
    {
        $found = [];
        foreach (glob("$this->folder/incoming/*.json") ?: [] as $path) {
            $id = basename($path, '.json');
            if (is_file($this->path($id))) {
                $found[] = $this->noted($id) + [
                    'id' => $id,
                    'bytes' => (int) filesize($this->path($id)),
                    'since' => new \DateTimeImmutable('@'.(int) filemtime($this->path($id))),
                ];
            }
        }

        return array_map(fn (array $of) => array_intersect_key($of, array_flip(['id', 'name', 'source', 'bytes', 'since'])), $found);
    }

    public function forget(string $id): void
    {
        @unlink($this->path($id));
        @unlink("$this->folder/incoming/$id.json");
    }

    /** Removes what was uploaded and frozen by nobody for so many days. */
    public static function sweep(string $folder, int $days): void
    {
        foreach (glob("$folder/incoming/*") ?: [] as $path) {
            if ((int) @filemtime($path) < now()->subDays($days)->timestamp) {
                @unlink($path);
            }
        }
    }

    private function path(string $id): string
    {
        return "$this->folder/incoming/$id.data";
    }
}
