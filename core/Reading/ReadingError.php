<?php

namespace Baggage\Core\Reading;

/** A source that cannot be read as described: says what, where and what to do. */
final class ReadingError extends \RuntimeException
{
    public static function empty(): self
    {
        return new self('The file is empty: it has 0 bytes. Ask for the export again.');
    }

    public static function webPage(): self
    {
        return new self('This is a web page, perhaps one that says you have to log in. Ask for the data itself.');
    }

    public static function notText(string $kind): self
    {
        return new self(
            "This is not delimited text: it begins like $kind. Ask for the table as text, a workbook, JSON, XML, dBase or SQLite.",
        );
    }

    public static function broken(string $what): self
    {
        return new self($what);
    }

    public static function badBytes(int $line, string $encoding, string $bytes): self
    {
        return new self(
            sprintf(
                'Line %s holds bytes that are not %s (hex %s). Choose the encoding the file was written in, for instance Windows-1252.',
                number_format($line),
                $encoding,
                strtoupper(bin2hex($bytes)),
            ),
        );
    }

    public static function longLine(int $most): self
    {
        return self::broken(
            'A line is longer than '.Limits::size($most).'. Are the line ends those of a text, and is this the right kind of file?',
        );
    }

    public static function unclosedQuote(int $line): self
    {
        return new self(
            sprintf(
                'The quote opened in line %s is never closed, so everything after it would be one cell. '
                    .'Close it in the file, or choose no quote character.',
                number_format($line),
            ),
        );
    }

    public static function nothingBelowHeader(): self
    {
        return new self(
            'The file has a header but no rows below it. Ask for the export again, or say that the first line is data.',
        );
    }

    public static function noRows(): self
    {
        return new self('There are no rows to read here. Is this the right table, list or query?');
    }

    public static function tooWide(int $columns, int $limit): self
    {
        return new self(
            sprintf(
                'The header has %s columns; %s can be taken. Is the delimiter right?',
                number_format($columns),
                number_format($limit),
            ),
        );
    }

    public static function largeCell(int $row, int $column, int $most): self
    {
        return self::broken(sprintf(
            'Row %s: what stands in column %s is larger than %s. Is this the right kind of file?',
            number_format($row),
            number_format($column),
            Limits::size($most),
        ));
    }

    public static function skipsAll(int $skip): self
    {
        return new self(
            sprintf('The first %s lines are to be skipped, and the file has no line after them.', number_format($skip)),
        );
    }

    public static function unknownEncoding(string $name): self
    {
        return new self("Unknown encoding \"$name\". Known are ".implode(', ', Encoding::names()).'.');
    }
}
