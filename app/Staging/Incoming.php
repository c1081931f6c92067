<?php

namespace App\Staging;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\DelimitedReader;
use Baggage\Core\Reading\FormatGuess;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Str;

/** Uploaded files between upload and freezing: kept under names of our own, never served, never run. */
final class Incoming
{
    private const SAMPLE = 1 << 18;

    private readonly string $folder;

    public function __construct()
    {
        $this->folder = (string) config('baggage.vault');
        if (! is_dir("$this->folder/incoming")) {
            mkdir("$this->folder/incoming", 0770, true);
        }
    }

    /** @throws ReadingError when it is plainly no delimited text; nothing is kept then */
    public function keep(UploadedFile $file, int $source): string
    {
        $sample = (string) file_get_contents($file->getRealPath() ?: $file->getPathname(), false, null, 0, self::SAMPLE);
        FormatGuess::of($sample, strlen($sample) === $file->getSize());
        $id = (string) Str::uuid();
        file_put_contents("$this->folder/incoming/$id.json", json_encode(['name' => mb_substr($file->getClientOriginalName(), 0, 200), 'source' => $source], JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE));
        $file->move("$this->folder/incoming", "$id.data");

        return $id;
    }

    /** @return array{name: string, source: int}|null */
    public function find(string $id): ?array
    {
        return Str::isUuid($id) && is_file("$this->folder/incoming/$id.data") ? json_decode((string) file_get_contents("$this->folder/incoming/$id.json"), true) : null;
    }

    public function guess(string $id): FormatGuess
    {
        $sample = $this->sample($id);

        return FormatGuess::of($sample, strlen($sample) < self::SAMPLE);
    }

    /** @return array{columns: Columns|null, rows: list<array{int, list<string>}>, error: string|null} line and cells of the first rows */
    public function preview(string $id, DelimitedFormat $format, int $count): array
    {
        $columns = null;
        $rows = [];
        try {
            foreach ((new DelimitedReader($format))->rows((new FileChunks($this->path($id)))->chunks()) as $row) {
                if ($columns === null) {
                    $columns = $format->header ? Columns::fromHeaders($row->cells) : Columns::numbered(count($row->cells));
                    if ($columns->count() > (int) config('baggage.column_limit')) {
                        throw ReadingError::tooWide($columns->count(), (int) config('baggage.column_limit'));
                    }
                    if ($format->header) {
                        continue;
                    }
                }
                $rows[] = [$row->line, $row->cells];
                if (count($rows) === $count) {
                    break;
                }
            }
            if ($rows === []) {
                throw $columns === null ? ReadingError::skipsAll($format->skip) : ReadingError::nothingBelowHeader();
            }
        } catch (ReadingError $e) {
            return ['columns' => $columns, 'rows' => $rows, 'error' => $e->getMessage()];
        }

        return ['columns' => $columns, 'rows' => $rows, 'error' => null];
    }

    /** @return string path of the file for good */
    public function toVault(string $id): string
    {
        $path = "$this->folder/$id.data";
        rename($this->path($id), $path);
        @unlink("$this->folder/incoming/$id.json");

        return $path;
    }

    private function path(string $id): string
    {
        return "$this->folder/incoming/$id.data";
    }

    private function sample(string $id): string
    {
        return (string) file_get_contents($this->path($id), false, null, 0, self::SAMPLE);
    }
}
