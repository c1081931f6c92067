<?php

namespace App\Staging;

use App\Support\BrokenOff;
use Baggage\Core\Profiling\KeyWatch;

/**
 * Hashes of the columns of a take that may identify its rows, as they were made while it was read: one file a column, eight bytes a
 * row. They lie there from the freezing of a take until it is studied, and can always be made again from its rows.
 */
final readonly class KeyFiles
{
    /** Rows read at a time. */
    private const AT_ONCE = 20_000;

    public function __construct(private int $take)
    {
    }

    /** @param  array<int, string>  $hashes  position → eight bytes a row, of the next rows */
    public function append(array $hashes): void
    {
        if ($hashes !== [] && ! is_dir($folder = self::folder()) && ! @mkdir($folder, 0770, true) && ! is_dir($folder)) {
            throw BrokenOff::noRoom($folder);
        }
        foreach ($hashes as $position => $bytes) {
            if (@file_put_contents($this->path($position), $bytes, FILE_APPEND) !== strlen($bytes)) {
                throw BrokenOff::noRoom(self::folder());
            }
        }
    }

    /** Whether the column was hashed from the first row to the last. */
    public function has(int $position, int $rows): bool
    {
        return @filesize($this->path($position)) === $rows * strlen(KeyWatch::BLANK);
    }

    /** @return \Generator<non-empty-array<int, string>> row number → sixteen hexadecimal digits, of rows with a value */
    public function read(int $position): \Generator
    {
        $file = fopen($this->path($position), 'rb') ?: throw BrokenOff::noRoom(self::folder());
        $digits = 2 * strlen(KeyWatch::BLANK);
        $blank = bin2hex(KeyWatch::BLANK);
        for ($row = 1; ($bytes = (string) fread($file, self::AT_ONCE * strlen(KeyWatch::BLANK))) !== ''; $row += self::AT_ONCE) {
            $hashes = str_split(bin2hex($bytes), $digits);
            $found = array_combine(range($row, $row + count($hashes) - 1), $hashes);
            $blanks = array_keys($found, $blank, true);
            if ($blanks !== []) {
                $found = array_diff_key($found, array_flip($blanks));
            }
            if ($found !== []) {
                yield $found;
            }
        }
        fclose($file);
    }

    public function forget(): void
    {
        foreach (glob($this->path('*')) ?: [] as $file) {
            @unlink($file);
        }
    }

    private function path(int|string $position): string
    {
        return self::folder()."/$this->take-$position";
    }

    private static function folder(): string
    {
        return config('baggage.vault').'/hashes';
    }
}
