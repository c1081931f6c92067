<?php

namespace Baggage\Core\Loading;

/**
 * What a target did for a stretch of rows, as text that is written with the records in one transaction.
 *
 * JSON, packed by zlib (RFC 1950): {"v": 1, "to": last row, "answers": [[row, done, target key, said, before, holds], …]} with what is
 * empty at the end of an answer left out. Read with a bound on what it unpacks to, and never as PHP's own objects.
 */
final readonly class Receipt
{
    private const VERSION = 1;

    /** Bytes, packed or not. */
    public const LARGEST = 64 << 20;

    /** Values in it: small text can be large lists. A stretch has some thousand rows. */
    private const VALUES = 1_000_000;

    /** @param  list<Answer>  $answers */
    public function __construct(public int $to, public array $answers)
    {
    }

    public function pack(): string
    {
        $answers = [];
        foreach ($this->answers as $a) {
            $line = [$a->row, $a->done->value, $a->targetKey];
            if ($a->said !== null || $a->before !== [] || $a->holds !== []) {
                $line[] = $a->said === null ? null : [
                    $a->said->code, $a->said->fields, $a->said->message, $a->said->own, $a->said->by,
                ];
                $line[] = (object) $a->before;
                $a->holds === [] ?: $line[] = (object) $a->holds;
            }
            $answers[] = $line;
        }
        $text = json_encode(
            ['v' => self::VERSION, 'to' => $this->to, 'answers' => $answers],
            JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE,
        );

        return (string) gzcompress($text, 1);
    }

    /** @throws TargetUnavailable when the bytes are damaged, or of a version this one does not know */
    public static function unpack(string $packed): self
    {
        $text = @gzuncompress($packed, self::LARGEST);
        $isSmall = $text !== false && array_sum(array_map(fn (string $sign) => substr_count($text, $sign), [',', '[', '{'])) < self::VALUES;
        $kept = $isSmall ? json_decode($text, true, 8) : null;
        if (! is_array($kept) || ! is_int($kept['to'] ?? null) || ! is_array($kept['answers'] ?? null)) {
            throw TargetUnavailable::damagedReceipt();
        }
        if (($kept['v'] ?? null) !== self::VERSION) {
            throw TargetUnavailable::unknownReceipt();
        }

        return new self($kept['to'], array_map(self::answer(...), array_values($kept['answers'])));
    }

    private static function answer(mixed $line): Answer
    {
        $done = is_array($line) && is_string($line[1] ?? null) ? Done::tryFrom($line[1]) : null;
        if ($done === null || ! is_int($line[0] ?? null) || ! (is_string($line[2] ?? null) || ($line[2] ?? null) === null)) {
            throw TargetUnavailable::damagedReceipt();
        }
        $said = is_array($line[3] ?? null) ? $line[3] : null;
        $fields = array_values(array_map(strval(...), (array) ($said[1] ?? [])));
        $code = in_array($said[0] ?? null, Said::CODES, true) ? $said[0] : Said::REFUSED;
        $text = fn (int $at) => is_string($said[$at] ?? null) ? $said[$at] : null;

        return new Answer(
            $line[0],
            $done,
            $line[2] ?? null,
            $said === null ? null : new Said($code, $fields, (string) $text(2), $text(3), $text(4)),
            is_array($line[4] ?? null) ? $line[4] : [],
            is_array($line[5] ?? null) ? $line[5] : [],
        );
    }
}
