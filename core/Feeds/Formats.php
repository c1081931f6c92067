<?php

namespace Baggage\Core\Feeds;

use Baggage\Core\Reading\Dbase\DbaseFormat;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\FixedWidth\FixedWidthFormat;
use Baggage\Core\Reading\Format;
use Baggage\Core\Reading\Http\HttpFormat;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Nested\JsonFormat;
use Baggage\Core\Reading\Nested\XmlFormat;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Workbook\WorkbookFormat;

/** Every kind of thing rows come from, by its name in plans and forms. */
final class Formats
{
    /** @var list<class-string<Format>> */
    private const ALL = [
        DelimitedFormat::class,
        FixedWidthFormat::class,
        WorkbookFormat::class,
        JsonFormat::class,
        XmlFormat::class,
        DbaseFormat::class,
        QueryFormat::class,
        HttpFormat::class,
        FeedFormat::class,
    ];

    /**
     * @param  array<string, mixed>  $a  as ReaderSettings::toArray() gives it
     *
     * @throws \InvalidArgumentException|ReadingError
     */
    public static function settings(array $a): ReaderSettings
    {
        $kind = (string) ($a['kind'] ?? 'delimited');
        foreach (self::ALL as $class) {
            if ($class::kind() === $kind) {
                $member = trim((string) ($a['member'] ?? ''));

                return new ReaderSettings(
                    $class::fromArray($a),
                    Layout::fromArray($a),
                    $member === '' ? null : $member,
                    (bool) ($a['pad_short'] ?? false),
                );
            }
        }
        $known = implode(', ', array_map(fn ($c) => $c::kind(), self::ALL));
        throw new \InvalidArgumentException("There is no reader of the kind \"$kind\". Known are $known.");
    }
}
