<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;

/** An .xlsx workbook (ECMA-376, Office Open XML). */
final class Workbook
{
    private const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

    private const LARGEST_PART = 64 << 20;

    /** @var list<array{name: string, part: string, hidden: bool}> */
    public readonly array $sheets;

    public readonly bool $since1904;

    private readonly string $folder;

    private ?SharedStrings $strings = null;

    /** @var list<NumberFormat>|null */
    private ?array $formats = null;

    /** @throws ReadingError */
    public function __construct(private readonly Archive $archive)
    {
        $part = $this->mainPart();
        $this->folder = dirname($part) === '.' ? '' : dirname($part).'/';
        $book = $this->xml($part);
        $targets = $this->relations($part);
        $sheets = [];
        foreach ($book->xpath('//*[local-name()="sheet"]') ?: [] as $sheet) {
            $target = $targets[self::relation($sheet, $targets)] ?? null;
            if ($target !== null && ! str_contains($target, 'chartsheets/')) {
                $sheets[] = [
                    'name' => (string) $sheet['name'],
                    'part' => $this->resolve($target),
                    'hidden' => in_array((string) $sheet['state'], ['hidden', 'veryHidden'], true),
                ];
            }
        }
        if ($sheets === []) {
            throw ReadingError::broken('The workbook has no sheet with cells.');
        }
        $this->sheets = $sheets;
        $properties = ($book->xpath('//*[local-name()="workbookPr"]') ?: [])[0] ?? null;
        $this->since1904 = in_array((string) ($properties['date1904'] ?? ''), ['1', 'true', 'on'], true);
    }

    /** @return array<string, string> id of a relation of a part → where it leads */
    private function relations(string $part): array
    {
        $relations = $this->xml($this->folder.'_rels/'.basename($part).'.rels');
        $targets = [];
        foreach ($relations->xpath('//*[local-name()="Relationship"]') ?: [] as $relation) {
            $targets[(string) $relation['Id']] = (string) $relation['Target'];
        }

        return $targets;
    }

    /** @param  array<string, string>  $known */
    private static function relation(\SimpleXMLElement $sheet, array $known): string
    {
        $id = (string) ($sheet->attributes(self::RELATIONS)['id'] ?? ($sheet->attributes('r', true)['id'] ?? ''));
        if (isset($known[$id])) {
            return $id;
        }
        // The strict form of the standard has another namespace for the same attribute.
        $written = (string) preg_replace('/sheetId="[^"]*"/', '', (string) $sheet->asXML());

        return preg_match('/\bid="([^"]+)"/', $written, $m) === 1 ? $m[1] : '';
    }

    public function table(WorkbookFormat $format, Layout $layout): Table
    {
        return new SheetTable($this->grid($format), $format, $layout, $this->sheet($format)['hidden']);
    }

    public function grid(WorkbookFormat $format): SheetGrid
    {
        $this->strings ??= $this->strings();
        $this->formats ??= $this->formats();

        return new SheetGrid(
            $this->archive->chunks($this->sheet($format)['part']),
            $this->strings,
            $this->formats,
            $this->since1904,
            $format->view,
        );
    }

    /** @return array{name: string, part: string, hidden: bool} */
    private function sheet(WorkbookFormat $format): array
    {
        $found = null;
        foreach ($this->sheets as $sheet) {
            if ($found === null && ($format->sheet === '' || $sheet['name'] === $format->sheet)) {
                $found = $sheet;
            }
        }
        if ($found === null) {
            throw ReadingError::broken(
                "The workbook has no sheet \"$format->sheet\"; it has "
                    .implode(', ', array_column($this->sheets, 'name')).'.',
            );
        }

        return $found;
    }

    private function mainPart(): string
    {
        $names = $this->archive->names();
        if (in_array('_rels/.rels', $names, true)) {
            foreach ($this->xml('_rels/.rels')->xpath('//*[local-name()="Relationship"]') ?: [] as $relation) {
                if (str_ends_with((string) $relation['Type'], '/officeDocument')) {
                    return ltrim((string) $relation['Target'], '/');
                }
            }
        }
        if (in_array('xl/workbook.xml', $names, true)) {
            return 'xl/workbook.xml';
        }
        throw ReadingError::broken(
            'This is no .xlsx workbook: it has no workbook part. A .xlsb or password-protected file has to be saved as .xlsx first.',
        );
    }

    private function resolve(string $target): string
    {
        if (str_starts_with($target, '/')) {
            return substr($target, 1);
        }
        $path = $this->folder.$target;
        while (($shorter = preg_replace('~[^/]+/\.\./~', '', $path, 1)) !== null && $shorter !== $path) {
            $path = $shorter;
        }

        return $path;
    }

    private function strings(): SharedStrings
    {
        $part = $this->folder.'sharedStrings.xml';

        return new SharedStrings(in_array($part, $this->archive->names(), true) ? $this->archive->chunks($part) : []);
    }

    /** @return list<NumberFormat> by style number */
    private function formats(): array
    {
        $part = $this->folder.'styles.xml';
        if (! in_array($part, $this->archive->names(), true)) {
            return [];
        }
        $xml = $this->xml($part);
        $codes = [];
        foreach ($xml->xpath('//*[local-name()="numFmts"]/*') ?: [] as $format) {
            $codes[(int) $format['numFmtId']] = new NumberFormat((string) $format['formatCode']);
        }
        $formats = [];
        foreach ($xml->xpath('//*[local-name()="cellXfs"]/*') ?: [] as $style) {
            $id = (int) $style['numFmtId'];
            $formats[] = $codes[$id] ??= NumberFormat::builtIn($id);
        }

        return $formats;
    }

    private function xml(string $part): \SimpleXMLElement
    {
        $text = '';
        foreach ($this->archive->chunks($part) as $chunk) {
            $text .= $chunk;
            if (strlen($text) > self::LARGEST_PART) {
                throw ReadingError::broken(
                    "The part $part of the workbook is larger than ".(self::LARGEST_PART >> 20).' MB.',
                );
            }
        }
        if (stripos($text, '<!DOCTYPE') !== false) {
            throw ReadingError::broken(
                "The part $part of the workbook declares a document type, which no workbook needs. It is not read.",
            );
        }
        $before = libxml_use_internal_errors(true);
        $xml = simplexml_load_string($text, \SimpleXMLElement::class, LIBXML_NONET);
        libxml_clear_errors();
        libxml_use_internal_errors($before);

        return $xml === false
            ? throw ReadingError::broken(
                "The part $part of the workbook is damaged. Save it again in the program it comes from.",
            )
            : $xml;
    }
}
