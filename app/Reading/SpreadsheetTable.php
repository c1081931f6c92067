<?php

namespace App\Reading;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\LaidOut;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\Table;
use Baggage\Core\Reading\Workbook\CellView;
use Baggage\Core\Reading\Workbook\NumberFormat;
use Baggage\Core\Reading\Workbook\SerialDate;
use Baggage\Core\Reading\Workbook\WorkbookFormat;
use PhpOffice\PhpSpreadsheet\Cell\Cell;
use PhpOffice\PhpSpreadsheet\Cell\DataType;
use PhpOffice\PhpSpreadsheet\IOFactory;
use PhpOffice\PhpSpreadsheet\Reader\Ods;
use PhpOffice\PhpSpreadsheet\Reader\Xls;
use PhpOffice\PhpSpreadsheet\Shared\Date;
use PhpOffice\PhpSpreadsheet\Worksheet\Worksheet;

/** A sheet of an .xls or .ods workbook. These are read whole, so their size is bounded; .xlsx has a streaming reader of its own. */
final class SpreadsheetTable implements Table
{
    private const DAMAGED = 'The workbook cannot be read: it is damaged. Save it again in the program it comes from.';

    private ?LaidOut $table = null;

    private int $formulas = 0;

    /** @var array<int, CellView> */
    private array $views = [];

    private function __construct(
        private readonly Worksheet $sheet,
        private readonly WorkbookFormat $format,
        private readonly Layout $layout,
    ) {
    }

    private function table(): LaidOut
    {
        return $this->table ??= new LaidOut($this->grid(), $this->layout, fn () => null, '', fn () => [], false);
    }

    /** @throws ReadingError */
    public static function of(string $path, WorkbookFormat $format, Layout $layout, bool $preview = false): self
    {
        try {
            $reader = self::reader($path);
            if ($preview) {
                $reader->setReadFilter(new FirstRows);
            }
            if ($format->sheet !== '') {
                $reader->setLoadSheetsOnly([$format->sheet]);
            }
            $book = $reader->load($path);
        } catch (\Throwable $e) {
            throw self::refused($path, $e);
        }
        $sheet = $format->sheet === '' ? $book->getSheet(0) : $book->getSheetByName($format->sheet);

        return new self(
            $sheet ?? throw ReadingError::broken("The workbook has no sheet \"$format->sheet\"."),
            $format,
            $layout,
        );
    }

    /** @return list<string> */
    public static function sheets(string $path): array
    {
        try {
            return array_values(self::reader($path)->listWorksheetNames($path));
        } catch (\Throwable $e) {
            throw self::refused($path, $e);
        }
    }

    private static function refused(string $path, \Throwable $e): ReadingError
    {
        // An encrypted .xlsx is an old compound file with a stream of this name: [MS-OFFCRYPTO], section 2.3.4.
        $locked = (int) filesize($path) <= Limits::now()->old
            && str_contains(
                (string) file_get_contents($path),
                mb_convert_encoding('EncryptedPackage', 'UTF-16LE', 'ASCII'),
            );

        return match (true) {
            $locked || str_contains($e->getMessage(), 'assword') => ReadingError::broken(
                'The workbook is locked with a password. Open it in an office program, save it without one, and upload that.',
            ),
            $e instanceof ReadingError => $e,
            $e instanceof \PhpOffice\PhpSpreadsheet\Exception => ReadingError::broken(
                'The workbook cannot be read: '.$e->getMessage(),
            ),
            default => ReadingError::broken(self::DAMAGED),
        };
    }

    /**
     * The library believes what the head of a compound file says: [MS-CFB] 2.2 has what it may say, and sectors that are not in the file
     * are not asked for.
     *
     * @throws ReadingError
     */
    private static function refuseNoise(string $path): void
    {
        $head = (string) file_get_contents($path, false, null, 0, 76);
        if (! str_starts_with($head, "\xD0\xCF\x11\xE0") || strlen($head) < 76) {
            return;
        }
        $fields = 'vmajor/vorder/vshift/vmini/x6/Vdirectories/Vfat/Vfirst/x8/Vminifat/Vminis/Vdifat/Vdifats';
        $of = (array) unpack($fields, substr($head, 26));
        $sectors = intdiv((int) filesize($path), 1 << ($of['shift'] === 12 ? 12 : 9));
        $isSound = in_array([$of['major'], $of['shift']], [[3, 9], [4, 12]], true) && $of['order'] === 0xFFFE && $of['mini'] === 6
            && max($of['fat'], $of['first'], $of['minis'], $of['difats'], $of['directories']) <= $sectors;
        if (! $isSound) {
            throw ReadingError::broken(self::DAMAGED);
        }
    }

    private static function reader(string $path): Xls|Ods
    {
        if ((int) filesize($path) > Limits::now()->old) {
            throw ReadingError::broken(
                'A workbook of this old kind is read whole, so it may have '.Limits::size(Limits::now()->old)
                    .' at most. Save it as .xlsx, which is read as a stream.',
            );
        }

        self::refuseNoise($path);

        return IOFactory::identify($path, [IOFactory::READER_XLS, IOFactory::READER_ODS]) === IOFactory::READER_XLS
            ? new Xls
            : new Ods;
    }

    public function columns(): Columns
    {
        $columns = $this->table()->columns();
        foreach ($this->format->views as $header => $view) {
            $column = $columns->find((string) $header)
                ?? throw ReadingError::broken(
                    "The sheet has no column \"$header\" whose cells could be taken as $view->value.",
                );
            $this->views[$column->position + $this->layout->from] = $view;
        }

        return $columns;
    }

    /** @return \Generator<RawRow> */
    private function grid(): \Generator
    {
        $width = Layout::number($this->sheet->getHighestDataColumn());
        for ($row = 1, $last = $this->sheet->getHighestDataRow(); $row <= $last; $row++) {
            $cells = [];
            for ($column = 1; $column <= $width; $column++) {
                $at = [$column, $row];
                $cells[] = $this->sheet->cellExists($at) ? $this->cell($this->sheet->getCell($at), $column) : null;
            }
            yield new RawRow($row, $cells);
        }
    }

    private function cell(Cell $cell, int $column): ?string
    {
        $value = $cell->getValue();
        if ($cell->getDataType() === DataType::TYPE_FORMULA) {
            $this->formulas++;
            // What the workbook stored; nothing is computed here.
            $value = $cell->getOldCalculatedValue() ?? $value;
        }
        $view = $this->views[$column] ?? $this->format->view;
        if ($value === null || $value === '') {
            return $value;
        }
        if ($value instanceof \PhpOffice\PhpSpreadsheet\RichText\RichText) {
            return $value->getPlainText();
        }
        if (is_bool($value)) {
            return $view === CellView::Stored ? ($value ? '1' : '0') : ($value ? 'TRUE' : 'FALSE');
        }
        if ($cell->getDataType() === DataType::TYPE_STRING || ! is_numeric($value)) {
            return is_scalar($value) ? (string) $value : (string) json_encode($value);
        }
        $stored = is_float($value) ? (string) json_encode($value) : (string) $value;
        if ($view === CellView::Stored) {
            return $stored;
        }
        $since1904 = Date::getExcelCalendar() === Date::CALENDAR_MAC_1904;
        $format = NumberFormat::of((string) $cell->getStyle()->getNumberFormat()->getFormatCode());
        if ($view === CellView::Seen) {
            return $format->show($stored, $since1904);
        }

        return ($format->isDate ? SerialDate::of((float) $stored, $since1904)?->iso() : null)
            ?? NumberFormat::plain($stored);
    }

    public function rows(): \Generator
    {
        $this->columns();
        yield from $this->table()->rows();
    }

    public function sourceRows(): ?int
    {
        return $this->table()->sourceRows();
    }

    public function countedBy(): string
    {
        return $this->table()->countedBy();
    }

    public function remarks(): array
    {
        $merged = count($this->sheet->getMergeCells());

        return array_values(
            array_filter([
                ...$this->table()->remarks(),
                $this->formulas === 0
                    ? null
                    : new Remark(
                        'formulas',
                        Remark::say($this->formulas, 'cell holds a formula', 'cells hold formulas')
                            .'; what was read is the result stored when the workbook was last saved.',
                        $this->formulas,
                    ),
                $merged === 0
                    ? null
                    : new Remark(
                        'merged_cells',
                        Remark::say(
                            $merged,
                            'range of cells is merged; only its first cell holds',
                            'ranges of cells are merged; only the first cell of each holds',
                        ).' the value.',
                        $merged,
                    ),
            ]),
        );
    }
}
