<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\RowList;

/**
 * The cells of one sheet, row by row, from the bytes of its part, holding no more than a row at a time.
 *
 * Rows are cut out of the text and their cells matched with one pattern. The matches have to cover the row to the last byte; a
 * row written otherwise goes through a real XML parser, so nothing the pattern does not know can be passed over.
 *
 * @implements \IteratorAggregate<int, RawRow>
 */
final class SheetGrid implements \IteratorAggregate
{
    private const CELL = '~<c r="([A-Z]{1,3})\d+"(?: s="(\d+)")?(?: t="([a-zA-Z]+)")?'
        .'(?:/>|>(?:(<f)[^>]*(?:/>|>[^<]*</f>))?(?:<v>([^<]*)</v>|<v/>|<is><t(?: xml:space="preserve")?>([^<]*)</t></is>)?</c>)~';

    /** Columns and rows a sheet has (XFD1048576, as programs that write such files have it; value from memory). */
    private const COLUMNS = 16_384;

    private const ROWS = 1_048_576;

    /** @var array<int, CellView> column from 0 → how its cells are taken; others as */
    public array $views = [];

    public ?int $statedLast = null;

    public int $lastRow = 0;

    public int $merged = 0;

    public int $hiddenRows = 0;

    public int $hiddenColumns = 0;

    public readonly RowList $formulas;

    public int $formulasWithoutResult = 0;

    public readonly RowList $errors;

    /** @var array<string, int> */
    private static array $columns = [];

    /** @var array<string, string> style and stored number → what is taken of it */
    private array $known = [];

    private string $x = '';

    /**
     * @param  iterable<string>  $bytes
     * @param  list<NumberFormat>  $formats  by style number
     */
    public function __construct(
        private readonly iterable $bytes,
        private readonly SharedStrings $strings,
        private readonly array $formats,
        private readonly bool $since1904,
        private readonly CellView $view,
    ) {
        $this->formulas = new RowList;
        $this->errors = new RowList;
    }

    public function getIterator(): \Generator
    {
        $buffer = '';
        $state = 'before';
        foreach ($this->bytes as $chunk) {
            $buffer .= $chunk;
            if ($state === 'before') {
                $state = $this->begin($buffer);
            }
            if ($state === 'rows') {
                $at = 0;
                // One at a time: how cells are taken may still be settled once the header has been seen.
                while (($row = $this->rowAt($buffer, $at)) !== null) {
                    if ($row === false) {
                        $state = 'after';
                        break;
                    }
                    yield $row;
                }
                $buffer = substr($buffer, $at);
            }
            if ($state === 'after') {
                $this->merged += substr_count($buffer, "<{$this->x}mergeCell ");
                // A tag may be cut between two chunks.
                $cut = strrpos($buffer, '<');
                $buffer = $cut === false ? '' : substr($buffer, $cut);
                $this->merged -= substr_count($buffer, "<{$this->x}mergeCell ");
            }
        }
        if ($state !== 'after') {
            throw ReadingError::broken(
                'The sheet is cut off after row '.number_format($this->lastRow)
                    .'. Save the workbook again in the program it comes from.',
            );
        }
        $this->merged += substr_count($buffer, "<{$this->x}mergeCell ");
    }

    /**
     * @param  string  $buffer  what has been read; cut to where the rows begin
     * @return 'before'|'rows'|'after' after where the sheet has no rows
     */
    private function begin(string &$buffer): string
    {
        if (preg_match('~<(\w+:)?sheetData\s*(/)?>~', $buffer, $m, PREG_OFFSET_CAPTURE) !== 1) {
            if (strlen($buffer) > Limits::now()->record) {
                throw ReadingError::broken('The sheet has no cells where they should begin. The file is damaged.');
            }

            return 'before';
        }
        $this->x = $m[1][0] ?? '';
        $this->head(substr($buffer, 0, $m[0][1]));
        $buffer = substr($buffer, $m[0][1] + strlen($m[0][0]));

        return isset($m[2]) ? 'after' : 'rows';
    }

    private function head(string $xml): void
    {
        if (stripos($xml, '<!DOCTYPE') !== false) {
            throw ReadingError::broken('The sheet declares a document type, which no workbook needs. It is not read.');
        }
        if (preg_match("~<{$this->x}dimension [^>]*ref=\"[A-Z]+\\d+:[A-Z]+(\\d+)\"~", $xml, $m) === 1) {
            $this->statedLast = (int) $m[1];
        }
        if (preg_match_all("~<{$this->x}col [^>]*hidden=\"(?:1|true)\"[^>]*>~", $xml, $m) > 0) {
            foreach ($m[0] as $col) {
                preg_match('/min="(\d+)"/', $col, $min);
                preg_match('/max="(\d+)"/', $col, $max);
                $this->hiddenColumns += (int) ($max[1] ?? 1) - (int) ($min[1] ?? 1) + 1;
            }
        }
    }

    /**
     * @param  int  $at  where to look on; moved behind what was read
     * @return RawRow|false|null null when the buffer ends first, false when the cells have ended
     */
    private function rowAt(string $buffer, int &$at): RawRow|false|null
    {
        [$open, $close, $end] = ["<{$this->x}row", "</{$this->x}row>", "</{$this->x}sheetData>"];
        while (true) {
            $from = strpos($buffer, '<', $at);
            $at = $from === false ? strlen($buffer) : $from;
            if ($from === false) {
                return null;
            }
            if (substr_compare($buffer, $end, $from, strlen($end)) === 0) {
                $at = $from + strlen($end);

                return false;
            }
            $tagEnd = strpos($buffer, '>', $from);
            if ($tagEnd === false) {
                return null;
            }
            if (substr_compare($buffer, $open, $from, strlen($open)) !== 0) {
                throw $this->strayTag();
            }
            $tag = substr($buffer, $from, $tagEnd - $from + 1);
            $number = $this->rowNumber($tag);
            $to = $buffer[$tagEnd - 1] === '/' ? $tagEnd : strpos($buffer, $close, $tagEnd);
            if ($to === false) {
                return strlen($buffer) - $from > Limits::now()->record ? throw self::largeRow($number) : null;
            }
            $this->hiddenRows += str_contains($tag, ' hidden="1"') || str_contains($tag, ' hidden="true"') ? 1 : 0;
            $this->lastRow = $number;
            if ($to === $tagEnd) {
                $at = $tagEnd + 1;

                continue;
            }
            $at = $to + strlen($close);

            return new RawRow($number, $this->cells(substr($buffer, $tagEnd + 1, $to - $tagEnd - 1), $number));
        }
    }

    /** @param  string  $tag  of a row */
    private function rowNumber(string $tag): int
    {
        $number = preg_match('/\sr="(\d+)"/', $tag, $m) === 1 ? (int) $m[1] : $this->lastRow + 1;

        return $number <= self::ROWS ? $number : throw ReadingError::broken(
            "The sheet names a row $number, and a sheet has ".number_format(self::ROWS).'. The file is damaged.',
        );
    }

    private function strayTag(): ReadingError
    {
        return ReadingError::broken(
            'Between the rows of the sheet, after row '.number_format($this->lastRow)
                .', stands something else. The file is damaged.',
        );
    }

    private static function largeRow(int $number): ReadingError
    {
        return ReadingError::broken(
            'Row '.number_format($number).' of the sheet is larger than '.Limits::size(Limits::now()->record).'.',
        );
    }

    /** @return list<string|null> */
    private function cells(string $xml, int $row): array
    {
        $cells = [];
        $next = 0;
        $most = Limits::now()->columns;
        $covered = $this->x === ''
            && preg_match_all(self::CELL, $xml, $found, PREG_SET_ORDER | PREG_UNMATCHED_AS_NULL) !== false
                ? array_sum(array_map(strlen(...), array_column($found, 0)))
                : -1;
        if ($covered === strlen($xml)) {
            foreach ($found as [, $letters, $style, $type, $formula, $value, $inline]) {
                $column = self::$columns[$letters] ??= self::column($letters, $row);
                if ($column >= $most && self::isNothing($value ?? $inline, $column, $row)) {
                    continue;
                }
                while ($next < $column) {
                    $cells[$next++] = null;
                }
                $cells[$column] = $this->value(
                    $column,
                    $style,
                    $type,
                    $formula !== null,
                    $inline === null ? $value : CellText::decode($inline),
                    $row,
                );
                $next = max($next, $column + 1);
            }

            return array_values($cells);
        }

        return $this->slowly($xml, $row);
    }

    /**
     * A cell beyond the columns that are taken may be coloured, and hold nothing.
     *
     * @throws ReadingError where it holds something
     */
    private static function isNothing(?string $value, int $column, int $row): bool
    {
        return $value === null || $value === '' ? true : throw ReadingError::broken(sprintf(
            'Row %s has a value in column %s of the sheet; %s columns can be taken.',
            number_format($row),
            number_format($column + 1),
            number_format(Limits::now()->columns),
        ));
    }

    /** @return int from 0 */
    private static function column(string $letters, int $row): int
    {
        $column = strlen($letters) > 3 ? self::COLUMNS : Layout::number($letters) - 1;

        return $column < self::COLUMNS ? $column : throw ReadingError::broken(
            'Row '.number_format($row)." names a cell $letters$row; the last column of a sheet is XFD. The file is damaged.",
        );
    }

    /** @return list<string|null> */
    private function slowly(string $xml, int $row): array
    {
        $cells = [];
        $next = 0;
        foreach (trim($xml) === '' ? [] : $this->parsed($xml, $row)->childNodes as $c) {
            if (! ($c instanceof \DOMElement) || $c->localName !== 'c') {
                continue;
            }
            $column = preg_match('/^([A-Z]+)\d+$/', $c->getAttribute('r'), $m) === 1 ? self::column($m[1], $row) : $next;
            $value = $inline = null;
            $formula = false;
            foreach ($c->childNodes as $child) {
                if ($child instanceof \DOMElement) {
                    $formula = $formula || $child->localName === 'f';
                    $value = $child->localName === 'v' ? $child->textContent : $value;
                    $inline = $child->localName === 'is' ? $this->inline($child) : $inline;
                }
            }
            if ($column >= Limits::now()->columns && self::isNothing($value ?? $inline, $column, $row)) {
                continue;
            }
            while ($next < $column) {
                $cells[$next++] = null;
            }
            $style = $c->getAttribute('s');
            $type = $c->getAttribute('t');
            $cells[$column] = $this->value(
                $column,
                $style === '' ? null : $style,
                $type === '' ? null : $type,
                $formula,
                $inline ?? ($value === null ? null : htmlspecialchars($value, ENT_XML1)),
                $row,
            );
            $next = max($next, $column + 1);
        }
        ksort($cells);

        return array_values($cells);
    }

    private function parsed(string $xml, int $row): \DOMElement
    {
        $prefix = rtrim($this->x, ':');
        $document = new \DOMDocument;
        $before = libxml_use_internal_errors(true);
        $good = $document->loadXML(
            '<row xmlns'.($prefix === '' ? '' : ":$prefix")
                .'="urn:sheet" xmlns:xml="http://www.w3.org/XML/1998/namespace">'.$xml.'</row>',
            LIBXML_NONET,
        );
        libxml_clear_errors();
        libxml_use_internal_errors($before);

        if (! $good || $document->documentElement === null) {
            throw ReadingError::broken(
                'Row '.number_format($row)
                    .' of the sheet is no well-formed XML. Save the workbook again in the program it comes from.',
            );
        }

        return $document->documentElement;
    }

    private function inline(\DOMElement $is): string
    {
        $text = '';
        foreach ($is->getElementsByTagName('*') as $t) {
            $parent = $t->parentNode;
            if ($t->localName === 't' && ! ($parent instanceof \DOMElement && $parent->localName === 'rPh')) {
                $text .= $t->textContent;
            }
        }

        return CellText::decode(htmlspecialchars($text, ENT_XML1));
    }

    private function value(int $column, ?string $style, ?string $type, bool $formula, ?string $value, int $row): ?string
    {
        if ($formula) {
            $this->formulas->add($row);
            if ($value === null || ($value === '' && $type !== 'str')) {
                $this->formulasWithoutResult++;
            }
        }
        if ($value === null) {
            return null;
        }
        if ($type === 's') {
            return $this->strings->at((int) $value);
        }
        if ($type === null || $type === 'n') {
            return $this->number($column, $style, $value);
        }
        if ($type === 'inlineStr') {
            return $value;
        }
        if ($type === 'b') {
            return ($this->views[$column] ?? $this->view) === CellView::Stored
                ? $value
                : ($value === '1'
                    ? 'TRUE'
                    : 'FALSE');
        }
        if ($type === 'e') {
            $this->errors->add($row);
        }

        return CellText::decode($value);
    }

    private function number(int $column, ?string $style, string $value): string
    {
        $view = $this->views[$column] ?? $this->view;
        if ($view === CellView::Stored || $value === '') {
            return $value;
        }
        $format = $style === null ? null : $this->formats[(int) $style] ?? null;
        if ($view === CellView::Plain && ($format === null || ! $format->isDate)) {
            return strlen($value) < 16 && strpbrk($value, 'eE') === false ? $value : NumberFormat::plain($value);
        }
        $key = "$style $value {$view->value}";
        if (isset($this->known[$key])) {
            return $this->known[$key];
        }
        if (count($this->known) > 20_000) {
            $this->known = [];
        }

        return $this->known[$key] = match (true) {
            $view === CellView::Plain => is_numeric($value)
                ? SerialDate::of((float) $value, $this->since1904)?->iso() ?? NumberFormat::plain($value)
                : $value,
            $format === null => NumberFormat::plain($value),
            default => $format->show($value, $this->since1904),
        };
    }
}
