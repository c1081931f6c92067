<?php

namespace App\Rejects;

use App\Catalogue\Definitions;
use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\Correction;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Staging\StagedRows;
use Baggage\Core\Mapping\DefinitionError;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Repairs made from the Rejects screen. Each returns how many rows wait to be loaded again for it. */
final class Repairs implements Waiting
{
    private const ROWS_AT_ONCE = 1000;

    /** Codes of causes that a code crosswalk makes. */
    private const OF_CODES = ['no_new_value', 'code_rejected'];

    public function __construct(private readonly LedgerWriter $ledger)
    {
    }

    /** One cell of one row. */
    public function correctCell(
        Round $round,
        Extract $extract,
        int $row,
        string $header,
        ?string $new,
        string $reason,
    ): int {
        $column = $extract->tidyColumns()->find($header)
            ?? throw new \DomainException("The extract has no column \"$header\".");
        $cells = StagedRows::cells((int) $extract->take_id, [$row])[$row]
            ?? throw new \DomainException("The extract has no row $row.");
        $this->put(
            $extract,
            $column->header,
            [$row => $cells[$column->position] ?? null],
            $new,
            $reason,
        );
        Audit::note($round->migration_id, "corrected a cell of $extract->name", [
            'row' => $row,
            'column' => $column->header,
            'to' => $new,
        ]);

        return $this->rowsPending($round, $extract, [$row]);
    }

    /** The same value in all rows of one cause. */
    public function correctValue(
        Round $round,
        Load $load,
        int $cause,
        string $header,
        ?string $new,
        string $reason,
    ): int {
        $extract = $load->extract;
        $column = $extract->tidyColumns()->find($header)
            ?? throw new \DomainException("The extract has no column \"$header\".");
        $ledger = new LedgerReader($round);
        $done = $after = 0;
        while (($numbers = $ledger->rejectedFor($load, $cause, $after, self::ROWS_AT_ONCE)) !== []) {
            $after = end($numbers);
            $cells = StagedRows::cells((int) $extract->take_id, $numbers);
            $olds = array_map(fn (array $row) => $row[$column->position] ?? null, $cells);
            $this->put($extract, $column->header, $olds, $new, $reason);
            $done += $this->rowsPending($round, $extract, $numbers);
        }
        Audit::note($round->migration_id, "corrected a value of $extract->name", [
            'column' => $column->header,
            'to' => $new,
            'rows' => $done,
        ]);

        return $done;
    }

    /** A new value for an old code. */
    public function mapCode(
        Migration $migration,
        CodeCrosswalk $crosswalk,
        string $old,
        ?string $new,
        bool $reject = false,
    ): int {
        $crosswalk
            ->entries()
            ->updateOrCreate(
                ['old_value' => trim($old)],
                [
                    'new_value' => $reject ? null : $new,
                    'decision' => $reject ? CodeDecision::Reject : CodeDecision::Value,
                    'user_id' => Auth::id(),
                ],
            );
        Audit::note($migration->id, "mapped a code of $crosswalk->name", [
            'old' => $old,
            'new' => $reject ? 'rejected' : $new,
        ]);

        return $this->codesChanged($migration, $crosswalk, [trim($old)]);
    }

    /**
     * Rows that a code crosswalk rejected may pass now.
     *
     * @param  list<string>|null  $olds  old values concerned, all when null
     */
    public function codesChanged(Migration $migration, CodeCrosswalk $crosswalk, ?array $olds = null): int
    {
        $definitions = new Definitions($migration);
        $done = 0;
        foreach ($migration->rounds()->latest('id')->limit(1)->get() as $round) {
            foreach ($definitions->loads() as $load) {
                $fields = self::fieldsUsing($definitions, $load, $crosswalk->name);
                if ($fields !== []) {
                    $causes = (new CauseReader($round->laneId()))->about($load->id, $fields, self::OF_CODES, $olds);
                    $done += $this->ledger->causesWait($round->laneId(), $load->id, $causes);
                }
            }
        }

        return $done;
    }

    /** Rows a field rejected may pass under its new rule. */
    public function ruleChanged(Load $load, ?string $field): int
    {
        $round = $load->migration->currentRound();

        if ($round === null) {
            return 0;
        }
        $causes = (new CauseReader($round->laneId()))->about($load->id, $field === null ? null : [$field]);

        return $this->ledger->causesWait($round->laneId(), $load->id, $causes);
    }

    /** Rows of one cause stay behind, with a reason. */
    public function waive(Round $round, Load $load, int $cause, string $reason): int
    {
        return DB::transaction(function () use ($round, $load, $cause, $reason) {
            $n = $this->ledger->waive($round->laneId(), $load->id, $cause);
            Audit::note($round->migration_id, "waived rows of $load->name", [
                'cause' => $cause,
                'rows' => $n,
                'reason' => $reason,
            ]);

            return $n;
        });
    }

    /** @return list<string> fields of the load whose rule uses the crosswalk */
    public static function fieldsUsing(Definitions $definitions, Load $load, string $crosswalk): array
    {
        try {
            $rules = $definitions->mapper($load)->rules();
        } catch (DefinitionError) {
            return [];
        }

        return array_map(
            strval(...),
            array_keys(array_filter($rules, fn ($r) => in_array($crosswalk, $r->codes, true))),
        );
    }

    /** @param  array<int, string|null>  $olds row → value as read */
    private function put(Extract $extract, string $header, array $olds, ?string $new, string $reason): void
    {
        $rows = [];
        foreach ($olds as $row => $old) {
            $rows[] = [
                'extract_id' => $extract->id,
                'row_no' => $row,
                'header' => $header,
                'old_value' => $old,
                'new_value' => $new,
                'reason' => $reason,
                'user_id' => Auth::id(),
                'created_at' => now(),
                'updated_at' => now(),
            ];
        }
        // A pass that is under way goes on with the corrections it was begun with.
        DB::transaction(function () use ($extract, $header, $rows) {
            Correction::query()
                ->where('extract_id', $extract->id)
                ->where('header', $header)
                ->whereIntegerInRaw('row_no', array_column($rows, 'row_no'))
                ->lockForUpdate()
                ->update(['replaced' => (int) Correction::query()->withoutGlobalScopes()->max('id') + 1]);
            Correction::query()->insert($rows);
        });
    }

    /** @param  list<int>  $rows */
    private function rowsPending(Round $round, Extract $extract, array $rows): int
    {
        $done = 0;
        foreach ($extract->loads()->pluck('id') as $load) {
            $done += $this->ledger->rowsWait($round->laneId(), (int) $load, $rows);
        }

        return $done;
    }
}
