<?php

namespace Baggage\Core\Reading\FixedWidth;

use Baggage\Core\Reading\Decoder;
use Baggage\Core\Reading\LaidOut;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Baggage\Core\Reading\Table;
use Baggage\Core\Reading\TextLines;
use Baggage\Core\Reading\TextRemarks;

/** Reads text whose columns are told apart by their place in the line, counted in characters. */
final class FixedWidthReader
{
    private int $rows = 0;

    private readonly RowList $short;

    private readonly RowList $long;

    private readonly TextLines $text;

    private readonly Decoder $decoder;

    /** @param  Layout  $layout  its header row, if any, is passed over: the layout text names the columns */
    public function __construct(
        private readonly FixedWidthFormat $format,
        private readonly Layout $layout = new Layout(false),
    ) {
        $this->short = new RowList;
        $this->long = new RowList;
        $this->text = new TextLines;
        $this->decoder = new Decoder($format->encoding);
    }

    /** @param  iterable<string>  $bytes */
    public function table(iterable $bytes): Table
    {
        return new LaidOut(
            $this->grid($bytes),
            $this->layout,
            fn () => $this->rows,
            'by the file\'s lines alone',
            $this->remarks(...),
            names: array_map(fn (FixedColumn $c) => $c->name, $this->format->columns),
        );
    }

    /**
     * @param  iterable<string>  $bytes
     * @return \Generator<RawRow>
     */
    private function grid(iterable $bytes): \Generator
    {
        $number = 0;
        $header = $this->layout->header;
        $last = $this->format->columns[count($this->format->columns) - 1];
        foreach ($this->text->split($this->decoder->decode($bytes)) as $line) {
            $number++;
            if (
                $number <= $this->layout->skip
                || trim($line) === ''
                || ($this->layout->comment !== '' && str_starts_with($line, $this->layout->comment))
            ) {
                continue;
            }
            if ($header) {
                $header = false;
                yield new RawRow($number, []);

                continue;
            }
            $this->rows++;
            $plain = strlen($line) === ($length = mb_strlen($line));
            $cells = [];
            foreach ($this->format->columns as $c) {
                $cell = $plain
                    ? substr($line, $c->from - 1, $c->to - $c->from + 1)
                    : mb_substr($line, $c->from - 1, $c->to - $c->from + 1);
                $cells[] = $this->format->keepBlanks ? $cell : trim($cell, ' ');
            }
            if ($length < $last->from) {
                $this->short->add($this->rows);
            } elseif ($length > $last->to && trim(mb_substr($line, $last->to)) !== '') {
                // Nothing is dropped: what stands beyond the last column makes the row too long.
                $cells[] = trim(mb_substr($line, $last->to));
                $this->long->add($this->rows);
            }
            yield new RawRow($number, $cells);
        }
    }

    /** @return list<Remark> */
    private function remarks(): array
    {
        $remarks = TextRemarks::of($this->decoder, $this->text->endsInLineBreak);
        if ($this->short->count > 0) {
            $remarks[] = new Remark(
                'short_lines',
                Remark::say($this->short->count, 'line ends before', 'lines end before')
                    .' the last column begins; its cells are blank there.',
                $this->short->count,
                $this->short->rows,
            );
        }
        if ($this->long->count > 0) {
            $remarks[] = new Remark(
                'long_lines',
                Remark::say($this->long->count, 'line goes on', 'lines go on')
                    .' beyond the last column; the rest is kept as one more cell.',
                $this->long->count,
                $this->long->rows,
            );
        }

        return $remarks;
    }

    /**
     * Column borders where all sample lines have a blank, as layout text; names from the first line when it is a header.
     *
     * @param  list<string>  $lines
     */
    public static function guess(array $lines, bool $header): string
    {
        $lines = array_slice(array_values(array_filter($lines, fn ($l) => trim($l) !== '')), 0, 200);
        $width = $lines === [] ? 0 : max(array_map(mb_strlen(...), $lines));
        $filled = array_fill(0, $width + 1, false);
        foreach ($lines as $line) {
            foreach (mb_str_split($line) as $i => $character) {
                $filled[$i] = $filled[$i] || $character !== ' ';
            }
        }
        $columns = [];
        for ($i = 0; $i < $width; $i++) {
            if ($filled[$i] && ($i === 0 || ! $filled[$i - 1])) {
                $columns[] = $i;
            }
        }
        $text = [];
        foreach ($columns as $n => $from) {
            $to = $columns[$n + 1] ?? $width;
            $name = $header ? trim(mb_substr($lines[0], $from, $to - $from)) : '';
            $text[] = ($name === '' ? 'column '.($n + 1) : $name).' '.($from + 1).'-'.$to;
        }

        return implode("\n", $text);
    }
}
