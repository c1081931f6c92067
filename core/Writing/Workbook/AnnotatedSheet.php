<?php

namespace Baggage\Core\Writing\Workbook;

use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;

/**
 * A copy of a sheet's part with cells added at the end of its rows, within the text of the part: everything else of it stays as it is, to
 * the byte (ECMA-376, part 1, 18.3.1.73 for rows).
 */
final class AnnotatedSheet
{
    /** Columns a sheet has (as programs that open such files have it, value from memory). */
    private const COLUMNS = 16_384;

    private string $x = '';

    private int $row = 0;

    /**
     * @param  int  $from  first of the added columns, from 1
     * @param  int  $many  how many are added
     * @param  \Closure(int): (list<string>|null)  $cells  to add to a row, asked for in the order of the rows
     * @param  int|null  $head  row that names the columns: its looks go on
     */
    public function __construct(
        private readonly int $from,
        private readonly int $many,
        private readonly \Closure $cells,
        private readonly ?int $head,
    ) {
    }

    /**
     * The column after the last one any cell stands in, from 1.
     *
     * @param  iterable<string>  $bytes
     */
    public static function after(iterable $bytes): int
    {
        $last = 0;
        $rest = '';
        foreach ($bytes as $chunk) {
            $rest .= $chunk;
            preg_match_all('~<(?:\w+:)?c\s[^>]*?\br="([A-Z]{1,3})\d+"~', $rest, $m);
            foreach (array_unique($m[1]) as $letters) {
                $last = max($last, Layout::number($letters));
            }
            // A tag may be cut between two chunks.
            $cut = strrpos($rest, '<');
            $rest = $cut === false ? '' : substr($rest, $cut);
        }

        return $last + 1;
    }

    /**
     * @param  iterable<string>  $bytes
     * @return \Generator<string>
     *
     * @throws ReadingError
     */
    public function of(iterable $bytes): \Generator
    {
        if ($this->from + $this->many - 1 > self::COLUMNS) {
            throw ReadingError::broken('The sheet has no room for '.$this->many.' more columns.');
        }
        $buffer = '';
        $state = 'before';
        foreach ($bytes as $chunk) {
            $buffer .= $chunk;
            if ($state === 'before' && preg_match('~<(\w+:)?sheetData\s*(/)?>~', $buffer, $m, PREG_OFFSET_CAPTURE) === 1) {
                $this->x = $m[1][0] ?? '';
                $end = $m[0][1] + strlen($m[0][0]);
                yield $this->head(substr($buffer, 0, $end));
                $buffer = substr($buffer, $end);
                $state = isset($m[2]) ? 'after' : 'rows';
            }
            if ($state === 'rows') {
                [$done, $buffer, $isEnd] = $this->rows($buffer);
                yield $done;
                $state = $isEnd ? 'after' : 'rows';
            }
            if ($state === 'after') {
                yield $buffer;
                $buffer = '';
            } elseif (strlen($buffer) > Limits::now()->record) {
                throw ReadingError::broken('A row of the sheet is larger than '.Limits::size(Limits::now()->record).'.');
            }
        }
        if ($state !== 'after') {
            throw ReadingError::broken('The sheet is cut off. Save the workbook again in the program it comes from.');
        }
    }

    /** The stated range takes the added columns in. */
    private function head(string $xml): string
    {
        $last = Layout::letters($this->from + $this->many - 1);

        return (string) preg_replace("~(<{$this->x}dimension\\s[^>]*ref=\"[A-Z]+\\d+:)[A-Z]+(\\d+\")~", "\${1}$last\$2", $xml);
    }

    /** @return array{string, string, bool} what is done, what is left, and whether there are no more rows */
    private function rows(string $buffer): array
    {
        $done = '';
        $at = 0;
        while (preg_match("~<(/?){$this->x}(row|sheetData)\\b[^>]*?(/?)>~", $buffer, $m, PREG_OFFSET_CAPTURE, $at) === 1) {
            if ($m[1][0] === '/') {
                return [$done.substr($buffer, $at, $m[0][1] - $at), substr($buffer, $m[0][1]), true];
            }
            $close = "</{$this->x}row>";
            $isEmpty = $m[3][0] === '/';
            $end = $isEmpty ? $m[0][1] + strlen($m[0][0]) : strpos($buffer, $close, $m[0][1]);
            if ($end === false) {
                break;
            }
            $end += $isEmpty ? 0 : strlen($close);
            $done .= substr($buffer, $at, $m[0][1] - $at).$this->row(substr($buffer, $m[0][1], $end - $m[0][1]), $m[0][0], $isEmpty);
            $at = $end;
        }

        return [$done, substr($buffer, $at), false];
    }

    private function row(string $xml, string $tag, bool $isEmpty): string
    {
        $this->row = preg_match('/\br="(\d+)"/', $tag, $m) === 1 ? (int) $m[1] : $this->row + 1;
        $cells = ($this->cells)($this->row);
        if ($cells === null || $isEmpty) {
            return $xml;
        }
        $style = '';
        if ($this->row === $this->head && preg_match_all("~<{$this->x}c\\s[^>]*\\bs=\"(\\d+)\"~", $xml, $all) > 0) {
            $style = ' s="'.end($all[1]).'"';
        }
        $added = '';
        foreach ($cells as $i => $cell) {
            $ref = Layout::letters($this->from + $i).$this->row;
            $text = Xml::text(mb_substr($cell, 0, Xml::MOST));
            $added .= "<{$this->x}c r=\"$ref\"$style t=\"inlineStr\"><{$this->x}is><{$this->x}t xml:space=\"preserve\">$text"
                ."</{$this->x}t></{$this->x}is></{$this->x}c>";
        }
        $last = $this->from + $this->many - 1;
        $spanned = (string) preg_replace_callback(
            '/\bspans="(\d+):(\d+)"/',
            fn (array $m) => 'spans="'.$m[1].':'.max((int) $m[2], $last).'"',
            $tag,
        );
        $close = "</{$this->x}row>";

        return $spanned.substr($xml, strlen($tag), -strlen($close)).$added.$close;
    }
}
