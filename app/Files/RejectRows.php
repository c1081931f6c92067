<?php

namespace App\Files;

use App\Ledger\CauseReader;
use App\Ledger\RowFilter;
use App\Ledger\RowList;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Take;
use App\Staging\StagedRows;
use Baggage\Core\Rows\Outcome;

/** The rejected rows a file is about, load by load in row order, as they say it with the corrections made until then. */
final readonly class RejectRows
{
    /** Rows read at a time, and cells: of wide rows fewer. */
    private const AT_ONCE = 4_000;

    private const CELLS = 80_000;

    /** Causes kept in mind. */
    private const KNOWN = 20_000;

    /**
     * @param  array<int, Load>  $loads
     * @param  array<int, Take>  $takes  by load
     */
    private function __construct(private ClientFile $file, public array $loads, public array $takes)
    {
    }

    public static function of(ClientFile $file): self
    {
        $loads = Load::query()->whereIn('id', $file->loads)->where('migration_id', $file->migration_id)->with('rules')->get()
            ->keyBy('id')->all();
        $takes = $file->round->roundLoads()->whereIn('load_id', array_keys($loads))->with('take')->get();

        // In the order of the file: that of the rows of the list.
        return new self(
            $file,
            array_filter(array_replace(array_fill_keys($file->loads, null), $loads)),
            $takes->mapWithKeys(fn ($of) => [$of->load_id => $of->take])->all(),
        );
    }

    /** @return \Generator<int, array<int, array{list<string|null>, \stdClass}>> load → row → its cells, and the cause */
    public function pages(): \Generator
    {
        $lane = $this->file->round->laneId();
        $list = new RowList($lane);
        $causes = new CauseReader($lane);
        $filter = $this->file->alike === null
            ? new RowFilter(Outcome::Rejected)
            : RowFilter::of(['alike' => $this->file->alike]);
        $known = [];
        foreach (array_intersect_key($this->loads, $this->takes) as $load) {
            $staged = new StagedRows($this->takes[$load->id]->id, $this->file->decision);
            $after = 0;
            $most = max(50, min(self::AT_ONCE, intdiv(self::CELLS, max(1, count($this->takes[$load->id]->columns ?? [])))));
            while (($rows = $list->causes($load->id, $filter, $after, $most)) !== []) {
                $known = count($known) > self::KNOWN ? [] : $known;
                $known += $causes->byId(array_keys(array_diff_key(array_flip(array_filter($rows)), $known)));
                $cells = $staged->numbered(array_keys($rows));
                $page = [];
                foreach ($rows as $row => $cause) {
                    $page[$row] = [$cells[$row] ?? [], $known[$cause] ?? new \stdClass];
                }
                yield $load->id => $page;
                $after = (int) array_key_last($rows);
            }
        }
    }

    /** @return array<int, list<string>> load → titles of its columns, as the client has them */
    public function headers(): array
    {
        return array_map(fn (Take $take) => $take->headers(), $this->takes);
    }
}
