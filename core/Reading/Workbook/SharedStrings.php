<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\ReadingError;

/** The texts of a workbook, which its cells name by number (ECMA-376, part 1, 18.4). Beyond a bound they lie in a spool, not in memory. */
final class SharedStrings
{
    private const IN_MEMORY = 12 << 20;

    private const LARGEST_HEAD = 1 << 20;

    /** @var list<string> */
    private array $first = [];

    private int $bytes = 0;

    /** @var resource|null */
    private $spool = null;

    private string $offsets = '';

    private int $end = 0;

    private int $count = 0;

    /** Reads on by one stretch each time it is asked; null once all is read. */
    private ?\Generator $more = null;

    private function __construct()
    {
    }

    /** @param  iterable<string>  $xml */
    public static function of(iterable $xml): self
    {
        $strings = new self;
        $strings->more = $strings->read($xml);

        return $strings;
    }

    /**
     * Texts are read as far as cells name them, so that the first rows of a large workbook are there at once.
     *
     * @param  iterable<string>  $xml
     * @return \Generator<null>
     */
    private function read(iterable $xml): \Generator
    {
        $buffer = '';
        $x = null;
        foreach ($xml as $chunk) {
            $buffer .= $chunk;
            if ($x === null) {
                self::refuseHead($buffer);
                if (preg_match('/<(\w+:)?sst\b[^>]*>/', $buffer, $m, PREG_OFFSET_CAPTURE) !== 1) {
                    continue;
                }
                $x = $m[1][0] ?? '';
                $buffer = substr($buffer, $m[0][1] + strlen($m[0][0]));
            }
            $close = strrpos($buffer, "</{$x}si>");
            if ($close !== false) {
                $close += strlen("</{$x}si>");
                $this->add(substr($buffer, 0, $close), $x);
                $buffer = substr($buffer, $close);
                yield;
            }
        }
        if (trim(preg_replace("~<{$x}si\\s*/>|</{$x}sst>~", '', $buffer, -1, $n) ?? '') !== '' && $x !== null) {
            throw ReadingError::broken(
                'The workbook\'s list of texts is cut off or damaged. Save it again in the program it comes from.',
            );
        }
        for ($i = substr_count($buffer, "<{$x}si"); $i > 0; $i--) {
            $this->keep('');
        }
    }

    /** What stands before the first text. */
    private static function refuseHead(string $head): void
    {
        if (stripos($head, '<!DOCTYPE') !== false) {
            throw ReadingError::broken("The workbook's list of texts declares a document type, which no workbook needs. It is not read.");
        }
        if (strlen($head) > self::LARGEST_HEAD && ! str_contains($head, 'sst')) {
            throw ReadingError::broken("The workbook's list of texts has none where they should begin. The file is damaged.");
        }
    }

    private function add(string $piece, string $x): void
    {
        if (
            preg_match_all("~\\s*<{$x}si(?:\\s[^>]*)?(?:/>|>(.*?)</{$x}si>)~s", $piece, $items, PREG_SET_ORDER)
            === false
        ) {
            throw ReadingError::broken('A text of the workbook is too large to be read.');
        }
        $covered = 0;
        foreach ($items as $item) {
            $covered += strlen($item[0]);
            $this->keep(CellText::of($item[1] ?? '', $x));
        }
        if ($covered !== strlen($piece)) {
            throw ReadingError::broken(
                'The workbook\'s list of texts is damaged. Save it again in the program it comes from.',
            );
        }
    }

    private function keep(string $text): void
    {
        $this->count++;
        if ($this->spool === null && $this->bytes < self::IN_MEMORY) {
            $this->first[] = $text;
            $this->bytes += strlen($text) + 40;

            return;
        }
        $this->spool ??= fopen('php://temp/maxmemory:1048576', 'w+b') ?: null;
        if ($this->spool === null || fwrite($this->spool, $text) !== strlen($text)) {
            throw ReadingError::broken('The workbook\'s texts do not fit into the temporary folder: is the disk full?');
        }
        $this->offsets .= pack('J', $this->end);
        $this->end += strlen($text);
    }

    /** @throws ReadingError */
    public function at(int $i): string
    {
        if (isset($this->first[$i])) {
            return $this->first[$i];
        }
        while ($i >= $this->count && $this->more !== null) {
            $this->more->valid() ? $this->more->next() : ($this->more = null);
        }
        if (isset($this->first[$i])) {
            return $this->first[$i];
        }
        if ($i < 0 || $i >= $this->count || $this->spool === null) {
            throw ReadingError::broken(
                "A cell names the text number $i, and the workbook has only $this->count. The file is damaged.",
            );
        }
        $at = ($i - count($this->first)) * 8;
        $from = (int) (unpack('J', substr($this->offsets, $at, 8))[1] ?? 0);
        $next = substr($this->offsets, $at + 8, 8);
        $to = $next === '' ? $this->end : (int) (unpack('J', $next)[1] ?? 0);
        if ($to === $from) {
            return '';
        }
        fseek($this->spool, $from);

        return (string) fread($this->spool, max(1, $to - $from));
    }
}
