<?php

namespace Demo;

/** What must become of every planted row, worked out by the generator alone. */
final class AnswerKey
{
    /** @var array<string, array{rows: int, outcomes: array<string, int>, exceptions: array<string, array<int, string>>}> */
    public array $loads = [];

    /** @var array<string, array{count: int, rows: list<int>}> load and defect → where it is planted */
    public array $defects = [];

    /** @var array<string, array{made: int, waiting: int}> */
    public array $links = [];

    /**
     * Extract → what has to be found in it.
     *
     * @var array<string, array{rows: int, findings: array<string, int>, planted: array<string, int>}>
     */
    public array $extracts = [];

    /** @param  array<string, int>  $findings  code, or code:header → rows */
    public function extract(string $name, int $rows, array $findings): void
    {
        $this->extracts[$name] = ['rows' => $rows, 'findings' => $findings, 'planted' => []];
    }

    /** A defect that shows only once extracts are held against each other. */
    public function planted(string $extract, string $defect, int $count): void
    {
        $this->extracts[$extract]['planted'][$defect] = $count;
    }

    public function row(string $load, int $row, string $outcome, string $why = ''): void
    {
        $this->loads[$load] ??= ['rows' => 0, 'outcomes' => [], 'exceptions' => []];
        $this->loads[$load]['rows']++;
        $this->loads[$load]['outcomes'][$outcome] = ($this->loads[$load]['outcomes'][$outcome] ?? 0) + 1;
        if ($outcome !== 'loaded') {
            $this->loads[$load]['exceptions'][$outcome][$row] = $why;
        }
        if ($why !== '' && $outcome === 'rejected') {
            $this->defects["$load: $why"] ??= ['count' => 0, 'rows' => []];
            $this->defects["$load: $why"]['count']++;
            $this->defects["$load: $why"]['rows'][] = $row;
        }
    }
}
