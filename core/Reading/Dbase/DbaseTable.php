<?php

namespace Baggage\Core\Reading\Dbase;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Decoder;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Baggage\Core\Reading\Table;

/**
 * Reads a dBase table: a header with the number of records and their length, one descriptor of 32 bytes for each field, then
 * records of fixed length, each led by a byte that says whether it is deleted ("dBase Table File Format", versions III to IV).
 */
final class DbaseTable implements Table
{
    /** Language driver byte → code page, those of western and northern offices ("xBase language drivers"). Value from memory. */
    private const PAGES = [
        0x01 => Encoding::Dos437,
        0x02 => Encoding::Dos850,
        0x03 => Encoding::Windows1252,
        0x08 => Encoding::Dos865,
        0x09 => Encoding::Dos437,
        0x0A => Encoding::Dos850,
        0x0D => Encoding::Dos437,
        0x0E => Encoding::Dos850,
        0x0F => Encoding::Dos437,
        0x10 => Encoding::Dos850,
        0x11 => Encoding::Dos437,
        0x12 => Encoding::Dos850,
        0x13 => Encoding::Dos850,
        0x14 => Encoding::Dos850,
        0x15 => Encoding::Dos437,
        0x16 => Encoding::Dos850,
        0x17 => Encoding::Dos865,
        0x18 => Encoding::Dos437,
        0x19 => Encoding::Dos437,
        0x1A => Encoding::Dos850,
        0x1B => Encoding::Dos437,
        0x1D => Encoding::Dos850,
        0x25 => Encoding::Dos850,
        0x26 => Encoding::Dos866,
        0x57 => Encoding::Windows1252,
        0x58 => Encoding::Windows1252,
        0x59 => Encoding::Windows1252,
        0x64 => Encoding::Dos852,
        0x65 => Encoding::Dos866,
        0xC8 => Encoding::Windows1250,
        0xC9 => Encoding::Windows1251,
    ];

    private string $buffer = '';

    private int $at = 0;

    /** @var list<array{name: string, type: string, length: int}> */
    private array $fields = [];

    private ?Columns $columns = null;

    private int $stated = 0;

    private int $recordLength = 0;

    private int $records = 0;

    private bool $memo = false;

    private string $pageFrom = '';

    /** @param  \Iterator<string>  $bytes */
    private function __construct(
        private readonly DbaseFormat $format,
        private readonly \Iterator $bytes,
        private readonly RowList $deleted = new RowList,
        private Decoder $decoder = new Decoder(Encoding::Dos850),
    ) {
    }

    /** @param  iterable<string>  $bytes */
    public static function of(DbaseFormat $format, iterable $bytes): self
    {
        return new self($format, (function () use ($bytes) {
            yield from $bytes;
        })());
    }

    public function columns(): Columns
    {
        if ($this->columns !== null) {
            return $this->columns;
        }
        $head = $this->take(32)
            ?? throw ReadingError::broken('The file is too short to be a dBase table: its header has 32 bytes.');
        $version = ord($head[0]) & 0x07;
        if (! in_array($version, [3, 4], true) && ! in_array(ord($head[0]), [0x30, 0x31, 0x32, 0xF5], true)) {
            throw ReadingError::broken(
                sprintf(
                    'This is no dBase table: its first byte is %02X, and 03, 83 or 8B was expected.',
                    ord($head[0]),
                ),
            );
        }
        /** @var array{n: int, h: int, r: int} $sizes */
        $sizes = unpack('Vn/vh/vr', substr($head, 4, 8));
        $this->stated = $sizes['n'];
        $this->recordLength = $sizes['r'];
        $this->decoder = new Decoder($this->page(ord($head[29])));
        $rest = $this->take($sizes['h'] - 32);
        if ($sizes['h'] < 65 || $rest === null) {
            throw ReadingError::broken(
                'The dBase header is cut off or damaged: it should have '.$sizes['h'].' bytes.',
            );
        }
        // One byte before the fields says whether the record is deleted.
        $length = 1 + $this->describeFields($rest);
        if ($this->fields === [] || $length !== $this->recordLength) {
            throw ReadingError::broken(
                "The dBase header contradicts itself: its fields make records of $length bytes, and it states $this->recordLength.",
            );
        }

        return $this->columns = Columns::fromHeaders(array_column($this->fields, 'name'));
    }

    private function page(int $language): Encoding
    {
        $encoding = $this->format->encoding ?? (self::PAGES[$language] ?? Encoding::Dos850);
        $this->pageFrom = $this->format->encoding === null && ! isset(self::PAGES[$language])
            ? sprintf(
                'The file does not say its code page (language byte %02X), so %s was taken.',
                $language,
                $encoding->value,
            )
            : '';

        return $encoding;
    }

    /** @return int bytes of all fields together */
    private function describeFields(string $descriptors): int
    {
        $length = 0;
        for ($at = 0; $at + 32 <= strlen($descriptors) && $descriptors[$at] !== "\x0D"; $at += 32) {
            $descriptor = substr($descriptors, $at, 32);
            $type = $descriptor[11];
            // Clipper keeps the high byte of a long character field where others keep decimals.
            $width = ord($descriptor[16]) + ($type === 'C' ? ord($descriptor[17]) * 256 : 0);
            $this->fields[] = [
                'name' => $this->text(rtrim((string) strstr(substr($descriptor, 0, 11)."\0", "\0", true))),
                'type' => $type,
                'length' => $width,
            ];
            $length += $width;
            $this->memo = $this->memo || $type === 'M';
        }

        return $length;
    }

    public function rows(): \Generator
    {
        $this->columns();
        $number = 0;
        while (($mark = $this->take(1)) !== null && $mark !== "\x1A") {
            $record = $this->take($this->recordLength - 1);
            if ($record === null) {
                throw ReadingError::broken(
                    'The dBase table is cut off: record '.number_format($this->records + 1).' of '
                        .number_format($this->stated).' is incomplete. Ask for the file again.',
                );
            }
            $this->records++;
            if ($mark === '*' && ! $this->format->deleted) {
                $this->deleted->add($this->records);

                continue;
            }
            $cells = [];
            $at = 0;
            foreach ($this->fields as $field) {
                $cells[] = $this->cell($field['type'], substr($record, $at, $field['length']));
                $at += $field['length'];
            }
            $number++;
            yield new RawRow($this->records, $cells);
            if ($this->records === $this->stated) {
                break;
            }
        }
    }

    private function cell(string $type, string $bytes): ?string
    {
        return match ($type) {
            'C' => $this->text(rtrim($bytes, " \0")),
            // YYYYMMDD, blank where nothing is known.
            'D' => preg_match('/^(\d{4})(\d\d)(\d\d)$/', $bytes, $m) === 1
                ? "$m[1]-$m[2]-$m[3]"
                : (trim($bytes, " \0") === ''
                    ? null
                    : $this->text($bytes)),
            'L' => in_array($bytes, ['?', ' ', "\0"], true) ? null : $bytes,
            'I', '+' => (string) (unpack('l', $bytes)[1] ?? ''),
            'B', 'O' => strlen($bytes) === 8 ? (string) (unpack('e', $bytes)[1] ?? '') : trim($bytes),
            'Y' => self::currency($bytes),
            'T', '@' => self::moment($bytes),
            default => trim($bytes, " \0") === '' ? null : $this->text(trim($bytes, " \0")),
        };
    }

    /** Eight bytes, a whole number of ten-thousandths. */
    private static function currency(string $bytes): string
    {
        $n = (int) (unpack('P', $bytes)[1] ?? 0);

        return ($n < 0 ? '-' : '').intdiv(abs($n), 10_000).'.'
            .str_pad((string) (abs($n) % 10_000), 4, '0', STR_PAD_LEFT);
    }

    /** A Julian day number and milliseconds of the day. */
    private static function moment(string $bytes): ?string
    {
        $parts = unpack('Vday/Vms', $bytes);
        if ($parts === false || $parts['day'] === 0) {
            return null;
        }

        return gmdate(
            'Y-m-d H:i:s',
            ($parts['day'] - 2_440_588) * 86_400 + intdiv((int) round($parts['ms'] / 10) * 10, 1000),
        );
    }

    private function text(string $bytes): string
    {
        return implode('', iterator_to_array($this->decoder->decode([$bytes]), false));
    }

    private function take(int $length): ?string
    {
        while (strlen($this->buffer) - $this->at < $length && $this->bytes->valid()) {
            $this->buffer = substr($this->buffer, $this->at).$this->bytes->current();
            $this->at = 0;
            $this->bytes->next();
        }
        if (strlen($this->buffer) - $this->at < $length) {
            return null;
        }
        $bytes = substr($this->buffer, $this->at, $length);
        $this->at += $length;

        return $bytes;
    }

    public function sourceRows(): int
    {
        return max(0, $this->stated - ($this->format->deleted ? 0 : $this->deleted->count));
    }

    public function countedBy(): string
    {
        return 'by the header of the table';
    }

    public function remarks(): array
    {
        return array_values(
            array_filter([
                ...array_map(fn (string $r) => new Remark('header', $r), $this->columns()->remarks),
                $this->pageFrom === '' ? null : new Remark('code_page', $this->pageFrom),
                $this->deleted->count === 0
                    ? null
                    : new Remark(
                        'deleted_rows',
                        Remark::say(
                            $this->deleted->count,
                            'record is marked as deleted and is left out',
                            'records are marked as deleted and are left out',
                        ).'; the reader can take them too.',
                        $this->deleted->count,
                    ),
                $this->memo
                    ? new Remark(
                        'memo',
                        'Memo fields hold only the number of their block: the texts lie in a file of their own (.dbt).',
                    )
                    : null,
                $this->records < $this->stated
                    ? new Remark(
                        'cut_off',
                        'The header states '.number_format($this->stated).' records, and the file holds '
                            .number_format($this->records).'.',
                        $this->stated - $this->records,
                    )
                    : null,
            ]),
        );
    }
}
