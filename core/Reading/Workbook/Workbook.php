<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;

/** An .xlsx workbook (ECMA-376, Office Open XML). */
final class Workbook
{
    private const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

    private ?SharedStrings $strings = null;

    /** @var list<NumberFormat>|null */
    private ?array $formats = null;

    /** @param  list<array{name: string, part: string, hidden: bool}>  $sheets */
    private function __construct(
        private readonly Package $package,
        public readonly array $sheets,
        public readonly bool $since1904,
    ) {
    }

    /** @throws ReadingError */
    public static function of(Archive $archive): self
    {
        $package = Package::of($archive);
        $book = $package->xml($package->main);
        $targets = $package->relations();
        $sheets = [];
        foreach ($book->xpath('//*[local-name()="sheet"]') ?: [] as $sheet) {
            $target = $targets[self::relation($sheet, $targets)] ?? null;
            if ($target !== null && ! str_contains($target, 'chartsheets/')) {
                $sheets[] = [
                    'name' => (string) $sheet['name'],
                    'part' => $package->resolve($target),
                    'hidden' => in_array((string) $sheet['state'], ['hidden', 'veryHidden'], true),
                ];
            }
        }
        if ($sheets === []) {
            throw ReadingError::broken('The workbook has no sheet with cells.');
        }
        $properties = ($book->xpath('//*[local-name()="workbookPr"]') ?: [])[0] ?? null;

        return new self(
            $package,
            $sheets,
            in_array((string) ($properties['date1904'] ?? ''), ['1', 'true', 'on'], true),
        );
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
        return SheetTable::of($this->grid($format), $format, $layout, $this->sheet($format)['hidden']);
    }

    public function grid(WorkbookFormat $format): SheetGrid
    {
        $this->strings ??= $this->strings();
        $this->formats ??= $this->formats();

        return new SheetGrid(
            $this->package->chunks($this->sheet($format)['part']),
            $this->strings,
            $this->formats,
            $this->since1904,
            $format->view,
        );
    }

    /** Name of the part of a sheet in the archive. */
    public function partOf(WorkbookFormat $format): string
    {
        return $this->sheet($format)['part'];
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

    private function strings(): SharedStrings
    {
        return SharedStrings::of($this->package->beside('sharedStrings.xml') ?? []);
    }

    /** @return list<NumberFormat> by style number */
    private function formats(): array
    {
        $part = $this->package->folder().'styles.xml';
        if (! $this->package->has($part)) {
            return [];
        }
        $xml = $this->package->xml($part);
        $codes = [];
        foreach ($xml->xpath('//*[local-name()="numFmts"]/*') ?: [] as $format) {
            $codes[(int) $format['numFmtId']] = NumberFormat::of((string) $format['formatCode']);
        }
        $formats = [];
        foreach ($xml->xpath('//*[local-name()="cellXfs"]/*') ?: [] as $style) {
            $id = (int) $style['numFmtId'];
            $formats[] = $codes[$id] ??= NumberFormat::builtIn($id);
        }

        return $formats;
    }
}
