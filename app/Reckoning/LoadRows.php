<?php

namespace App\Reckoning;

use App\Ledger\CountedLines;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Models\Take;
use App\Staging\StagedRows;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Mapping\KeyReader;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Reconciling\CountedRow;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Rows\Outcome;

/** The rows of one load with their lines and their records as the target has them now, some thousands at a time. */
final class LoadRows
{
    private const AT_ONCE = 2_000;

    /** @var array<int, array{Take, int}> pass → the take it read of the load, and the last decision it saw */
    private array $passes = [];

    private readonly StagedRows $staged;

    private readonly int $width;

    private ?KeyReader $keys = null;

    /**
     * @param  Take  $take  the round works on
     * @param  int  $decision  the last one that counts
     * @param  list<string>  $fields  of records that are needed
     */
    public function __construct(
        private readonly LoadDefinition $load,
        private readonly Take $take,
        private readonly int $decision,
        private readonly CountedLines $lines,
        private readonly TargetRecords $records,
        private readonly array $fields,
    ) {
        $this->staged = new StagedRows($take->id, $decision);
        $this->width = count($take->columns ?? []);
    }

    /**
     * All of them, and then those delivered no more whose record is kept.
     *
     * @return \Generator<CountedPage>
     */
    public function all(): \Generator
    {
        for ($after = 0; ; $after = $last) {
            [$raw, $now] = $this->staged->both($after, self::AT_ONCE);
            if ($raw === []) {
                break;
            }
            $last = (int) array_key_last($raw);
            yield $this->page($raw, $now, array_intersect_key($this->lines->between($this->load->id, $after, $last), $raw));
        }
        $kept = fn (int $after) => $this->lines->kept($this->load->id, $after, self::AT_ONCE);
        for ($lines = $kept(0); $lines !== []; $lines = $kept((int) array_key_last($lines))) {
            yield $this->page([], [], $lines);
        }
    }

    /**
     * Some of them.
     *
     * @param  list<int>  $rows
     * @return \Generator<CountedPage>
     */
    public function some(array $rows): \Generator
    {
        foreach (array_chunk($rows, self::AT_ONCE) as $part) {
            [$raw, $now] = $this->staged->bothOf($part);
            yield $this->page($raw, $now, $this->lines->of($this->load->id, $part));
        }
    }

    /**
     * @param  array<int, list<string|null>>  $raw
     * @param  array<int, list<string|null>>  $now
     * @param  array<int, array{outcome: string, target: string|null, pass: int, key: string}>  $lines
     */
    private function page(array $raw, array $now, array $lines): CountedPage
    {
        $stood = $this->stood($lines);
        $made = $this->made($stood);
        $targets = array_values(array_unique(array_filter(array_column($lines, 'target'), fn (?string $t) => $t !== null)));
        $records = $targets === [] ? [] : $this->records->byKeys($this->load->entity, $targets, $this->fields);
        $rows = [];
        foreach ($raw + $lines as $row => $true) {
            $line = $lines[$row] ?? null;
            $target = $line['target'] ?? null;
            $part = Part::of($line === null ? null : Outcome::from($line['outcome']), $target !== null);
            if ($part === null && $target === null) {
                continue;
            }
            $cells = isset($now[$row]) ? $this->filled($now[$row]) : null;
            $read = ! isset($raw[$row]) || $raw[$row] === $now[$row] ? $cells : $this->filled($raw[$row]);
            $rows[] = new CountedRow(
                $row,
                $part,
                $read,
                $cells,
                $part === Part::AsIs ? $cells : (isset($stood[$row]) ? $made[$row] ?? $cells : null),
                $target,
                $target === null ? null : $records[$target] ?? null,
                $line['key'] ?? ($cells === null ? '' : $this->keys()->legacyKey($cells)),
            );
        }

        return new CountedPage($rows, $lines, $stood, $now);
    }

    /**
     * Of rows that do not stand as they are, but stand.
     *
     * @param  array<int, array{outcome: string, target: string|null, pass: int, key: string}>  $lines
     * @return array<int, array{outcome: string, pass: int}> row → what it stood as, by which pass
     */
    private function stood(array $lines): array
    {
        $rows = array_keys(array_filter($lines, fn (array $l) => $l['target'] !== null
            && ! in_array($l['outcome'], ['loaded', 'updated', 'unchanged', 'merged', 'removed'], true)));

        return $rows === [] ? [] : $this->lines->stood($this->load->id, $rows);
    }

    /**
     * The cells records were made of that are older than what their rows say now.
     *
     * @param  array<int, array{outcome: string, pass: int}>  $stood
     * @return array<int, list<string|null>> by row
     */
    private function made(array $stood): array
    {
        $byPass = $made = [];
        foreach ($stood as $row => $of) {
            $byPass[$of['pass']][] = $row;
        }
        foreach ($byPass as $pass => $rows) {
            [$take, $decision] = $this->ofPass($pass);
            $made += array_map($this->filled(...), (new StagedRows($take->id, $decision))->numbered($rows));
        }

        return $made;
    }

    /** @return array{Take, int} */
    private function ofPass(int $pass): array
    {
        return $this->passes[$pass] ??= [
            PassLoad::query()->where('pass_id', $pass)->where('load_id', $this->load->id)->with('take')->first()->take ?? $this->take,
            (int) Pass::query()->whereKey($pass)->value('decision'),
        ];
    }

    /**
     * @param  list<string|null>  $cells
     * @return list<string|null> as many as there are columns
     */
    private function filled(array $cells): array
    {
        return count($cells) < $this->width ? array_pad($cells, $this->width, null) : $cells;
    }

    private function keys(): KeyReader
    {
        return $this->keys ??= KeyReader::of($this->load, $this->take->tidyColumns());
    }
}
