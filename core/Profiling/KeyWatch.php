<?php

namespace Baggage\Core\Profiling;

/** Hashes the columns that may still identify a row while the rows go by for their profile, so that nobody has to read them again. */
final class KeyWatch
{
    /** A row without a value. */
    public const BLANK = "\0\0\0\0\0\0\0\0";

    /** @var array<int, true>|null positions still watched */
    private ?array $watched = null;

    private int $rows = 0;

    public function __construct(private readonly TableProfile $profile)
    {
    }

    /**
     * @param  list<list<string|null>>  $rows  the next ones, which the profile knows already
     * @return array<int, string> position → eight bytes a row
     */
    public function add(array $rows): array
    {
        $this->rows += count($rows);
        $this->watched ??= array_fill(0, $this->profile->width(), true);
        $hashes = [];
        foreach (array_keys($this->watched) as $at) {
            if (! $this->profile->mayIdentify($at, $this->rows)) {
                unset($this->watched[$at]);

                continue;
            }
            $bytes = '';
            foreach ($rows as $cells) {
                $text = trim((string) ($cells[$at] ?? ''));
                $bytes .= $text === '' ? self::BLANK : hash('xxh3', $text, true);
            }
            $hashes[$at] = $bytes;
        }

        return $hashes;
    }
}
