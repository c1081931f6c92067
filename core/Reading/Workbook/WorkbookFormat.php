<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Format;
use Baggage\Core\Reading\Nested\JsonFormat;

/** A sheet of a workbook: .xlsx, .xls or .ods. */
final readonly class WorkbookFormat implements Format
{
    /**
     * @param  string  $sheet  its name; '' for the first
     * @param  CellView  $view  how cells are taken unless stated otherwise
     * @param  array<string, CellView>  $views  header → how its cells are taken
     */
    public function __construct(
        public string $sheet = '',
        public CellView $view = CellView::Plain,
        public array $views = [],
    ) {
    }

    public static function kind(): string
    {
        return 'workbook';
    }

    public static function fromArray(array $a): self
    {
        $views = [];
        foreach (CellView::cases() as $view) {
            foreach (JsonFormat::carried($a[$view->value] ?? []) as $header) {
                $views[$header] = $view;
            }
        }
        $word = (string) ($a['cells'] ?? '');

        return new self(
            trim((string) ($a['sheet'] ?? '')),
            $word === ''
                ? CellView::Plain
                : CellView::tryFrom($word)
                    ?? throw new \InvalidArgumentException(
                        "Cells are taken \"plain\", \"seen\" or \"stored\", not \"$word\".",
                    ),
            $views,
        );
    }

    public function toArray(): array
    {
        $out = array_filter(
            ['sheet' => $this->sheet ?: null, 'cells' => $this->view === CellView::Plain ? null : $this->view->value],
            fn ($v) => $v !== null,
        );
        foreach ($this->views as $header => $view) {
            $out[$view->value][] = (string) $header;
        }

        return $out;
    }

    public function describe(): string
    {
        return 'workbook'.($this->sheet === '' ? '' : ", sheet $this->sheet")
            .($this->view === CellView::Plain ? '' : ", cells as {$this->view->value}");
    }
}
