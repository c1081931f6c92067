<?php

namespace App\Reading;

use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Workbook\Archive;
use ZipArchive;

/** A zip file opened for reading; what it unpacks to is bounded, so that a small file cannot fill the machine. */
final class ZipMembers implements Archive
{
    private const CHUNK = 1 << 18;

    private function __construct(private readonly ZipArchive $zip)
    {
    }

    /** @throws ReadingError */
    public static function of(string $path): self
    {
        $zip = new ZipArchive;
        $code = $zip->open($path, ZipArchive::RDONLY);
        if ($code !== true) {
            throw ReadingError::broken(
                match ($code) {
                    ZipArchive::ER_NOZIP,
                    ZipArchive::ER_INCONS => 'The zip archive is damaged or cut off. Send it again.',
                    default => "The zip archive cannot be opened (code $code).",
                },
            );
        }
        $most = Limits::now()->members;
        if ($zip->numFiles > $most) {
            throw ReadingError::broken(
                'The zip archive holds '.number_format($zip->numFiles).' files; '.number_format($most).' can be taken.',
            );
        }
        self::refuseLarge($zip, (int) filesize($path));

        return new self($zip);
    }

    /**
     * Members that are harmless by themselves may not be together, also where several lie on the same packed bytes.
     *
     * @throws ReadingError
     */
    private static function refuseLarge(ZipArchive $zip, int $packed): void
    {
        $sum = 0;
        for ($i = 0; $i < $zip->numFiles; $i++) {
            $sum += (int) ($zip->statIndex($i)['size'] ?? 0);
        }
        $limits = Limits::now();
        if ($sum > $limits->archive) {
            throw ReadingError::broken(
                'What is in the zip archive would unpack to '.number_format($sum).' bytes in all; '.Limits::size($limits->archive)
                    .' can be taken. Send it in parts.',
            );
        }
        if (self::isBomb($sum, $packed)) {
            throw ReadingError::broken(sprintf(
                'What is in the zip archive would unpack from %s to %s bytes in all. No real export does that, so none of it is unpacked.',
                number_format($packed),
                number_format($sum),
            ));
        }
    }

    private static function isBomb(int $size, int $packed): bool
    {
        return $size > Limits::now()->harmless && $size > Limits::now()->ratio * max(1, $packed);
    }

    public function names(): array
    {
        $names = [];
        for ($i = 0; $i < $this->zip->numFiles; $i++) {
            $names[] = (string) $this->zip->getNameIndex($i);
        }

        return $names;
    }

    public function size(string $name): int
    {
        return (int) ($this->zip->statName($name)['size'] ?? 0);
    }

    public function chunks(string $name): \Generator
    {
        $size = $this->harmless($name);
        $stream = @$this->zip->getStream($name);
        if ($stream === false) {
            throw ReadingError::broken("\"$name\" in the archive cannot be unpacked.");
        }
        $left = $size;
        try {
            while (! feof($stream)) {
                $chunk = @fread($stream, self::CHUNK);
                if ($chunk === false || ($chunk === '' && ! feof($stream))) {
                    throw ReadingError::broken("\"$name\" in the archive is damaged.");
                }
                $left -= strlen($chunk);
                if ($left < 0) {
                    throw ReadingError::broken(
                        "\"$name\" in the archive unpacks to more than it states. It is not read.",
                    );
                }
                if ($chunk !== '') {
                    yield $chunk;
                }
            }
        } finally {
            fclose($stream);
        }
        if ($left !== 0) {
            throw ReadingError::broken(
                "\"$name\" in the archive is damaged: ".number_format($left).' of its '.number_format($size)
                    .' bytes are missing.',
            );
        }
    }

    /**
     * @return int bytes it states to unpack to
     *
     * @throws ReadingError when it is not there, locked, or would unpack to what no export does
     */
    private function harmless(string $name): int
    {
        $stat = $this->zip->statName($name);
        if ($stat === false) {
            throw ReadingError::broken(
                "The archive has no file \"$name\"; it has ".implode(', ', array_slice($this->names(), 0, 12)).'.',
            );
        }
        if ($stat['encryption_method'] !== 0) {
            throw ReadingError::broken("\"$name\" in the archive is locked with a password. Ask for it without one.");
        }
        if (self::isBomb($stat['size'], $stat['comp_size'])) {
            throw ReadingError::broken(
                sprintf(
                    '"%s" would unpack from %s to %s bytes. No real export does that, so it is not unpacked.',
                    $name,
                    number_format($stat['comp_size']),
                    number_format($stat['size']),
                ),
            );
        }

        return $stat['size'];
    }
}
