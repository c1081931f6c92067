<?php

namespace Baggage\Core\Reading;

/** What is read of foreign bytes at the most. Bytes unless stated; set once where the application begins, from its configuration. */
final class Limits
{
    private static ?self $now = null;

    /**
     * @param  int  $line  of a text
     * @param  int  $record  a row with all its cells, an element or object with what is in it
     * @param  int  $columns  of a table
     * @param  int  $depth  elements or objects inside each other
     * @param  int  $tag  an XML element's own, with its attributes
     * @param  int  $attributes  of an element
     * @param  int  $part  a part of a workbook that is read whole, an answer of a service
     * @param  int  $pages  answers of a service in a take
     * @param  int  $old  a workbook of the kinds that are read whole
     * @param  int  $archive  what all members of an archive unpack to
     * @param  int  $harmless  what may unpack to more than $ratio times its packed size
     * @param  int  $ratio  no export is packed better
     * @param  int  $members  of an archive
     * @param  int  $tables  that may wait from one file
     * @param  int  $plan  a plan file
     * @param  int  $values  in a plan, with what aliases make of it
     * @param  int  $aliases  in a plan
     */
    public function __construct(
        public readonly int $line = 16 << 20,
        public readonly int $cell = 12 << 20,
        public readonly int $record = 16 << 20,
        public readonly int $columns = 4096,
        public readonly int $depth = 64,
        public readonly int $tag = 60_000,
        public readonly int $attributes = 1_000,
        public readonly int $part = 64 << 20,
        public readonly int $pages = 200_000,
        public readonly int $old = 40 << 20,
        public readonly int $archive = 64 << 30,
        public readonly int $harmless = 50 << 20,
        public readonly int $ratio = 250,
        public readonly int $members = 10_000,
        public readonly int $tables = 200,
        public readonly int $plan = 32_000_000,
        public readonly int $values = 2_000_000,
        public readonly int $aliases = 100,
    ) {
    }

    public static function now(): self
    {
        return self::$now ??= new self;
    }

    public static function set(self $limits): void
    {
        self::$now = $limits;
    }

    /** @throws ReadingError */
    public function refuseWide(int $columns): void
    {
        if ($columns > $this->columns) {
            throw ReadingError::tooWide($columns, $this->columns);
        }
    }

    /** 16 MB, 60 kB, 900 bytes. */
    public static function size(int $bytes): string
    {
        return match (true) {
            $bytes >= 1 << 30 && $bytes % (1 << 30) === 0 => number_format($bytes >> 30).' GB',
            $bytes >= 1 << 20 => number_format($bytes / (1 << 20), $bytes % (1 << 20) === 0 ? 0 : 1).' MB',
            $bytes >= 10_000 => number_format($bytes / 1000).' kB',
            default => number_format($bytes).' bytes',
        };
    }
}
