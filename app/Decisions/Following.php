<?php

namespace App\Decisions;

use App\Models\Correction;
use App\Models\Take;
use App\Staging\StagedRows;
use App\Support\NamedLock;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\CorrectionState;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** Lays the corrections of an extract over a take of it, or over a take of a feed made of it. */
final class Following
{
    private const AT_ONCE = 500;

    private const WAIT = 900;

    /** Everything decided about rows of the take has its place in it afterwards. What has one already is left. */
    public static function complete(Take $take): void
    {
        NamedLock::of("follow:$take->id")->during(function () use ($take) {
            $format = $take->recipe === null ? null : Formats::settings($take->recipe)->format;
            $format instanceof FeedFormat ? self::below($take, $format) : self::read($take);
        }, self::WAIT);
    }

    private static function read(Take $take): void
    {
        RowKeys::settleAll($take->extract_id);
        $missing = self::missing($take)->where('corrections.extract_id', $take->extract_id)->get();
        $keys = RowKeys::keys(...$missing->pluck('row_key_id')->map(fn ($id) => (int) $id)->unique()->all());
        $also = [];
        foreach ($missing->where('whole', false) as $correction) {
            $moved = $keys[$correction->row_key_id]->with($correction->header, $correction->new_value);
            if ($moved !== null) {
                $also["moved$correction->id"] = $moved;
            }
        }
        $follower = RowKeys::follow($take, $also);
        foreach ($missing->chunk(self::AT_ONCE) as $some) {
            $rows = DB::table('row_places')
                ->where('take_id', $take->id)
                ->whereIntegerInRaw('row_key_id', $some->pluck('row_key_id'))
                ->pluck('row_no', 'row_key_id')
                ->all();
            $at = fn (Correction $c) => (int) ($rows[$c->row_key_id] ?? 0) ?: null;
            $cells = StagedRows::cells($take->id, array_values(array_filter(array_map($at, $some->all()))));
            $columns = $take->tidyColumns();
            DB::table('correction_places')->insertOrIgnore(
                $some->map(function (Correction $c) use ($take, $at, $cells, $columns, $follower) {
                    return self::placed($take->id, $c, $at($c), $cells, $columns, $follower?->row("moved$c->id"));
                })->all(),
            );
        }
    }

    /**
     * @param  array<int, list<string|null>>  $cells  by row number
     * @param  int|null  $moved  the row whose key is what the correction made of it
     * @return array<string, int|string|null>
     */
    private static function placed(int $take, Correction $c, ?int $row, array $cells, Columns $columns, ?int $moved): array
    {
        $position = $columns->byHeader()[$c->header] ?? null;
        $there = $row !== null && isset($cells[$row]) && ($c->whole || $position !== null);
        $found = null;
        if ($there) {
            $found = $c->whole ? (string) json_encode($cells[$row], JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES)
                : $cells[$row][$position] ?? null;
        }
        $state = CorrectionState::of($there, $found, $c->old_value, $c->new_value);
        if ($state === CorrectionState::WithoutRow && $moved !== null) {
            [$state, $row, $found] = [CorrectionState::Confirmed, $moved, $c->new_value];
        }

        return [
            'take_id' => $take,
            'row_no' => $state === CorrectionState::WithoutRow ? 0 : $row,
            'correction_id' => $c->id,
            'position' => $c->whole ? null : $position ?? 0,
            'state' => $state->value,
            'found' => $found,
        ];
    }

    /** Cells of made feeds stand for cells of the extracts they are made of. */
    private static function below(Take $take, FeedFormat $format): void
    {
        RowKeys::settleAll($take->extract_id);
        RowKeys::follow($take);
        $sources = FeedSources::of($take, $format);
        if ($sources->takes === []) {
            return;
        }
        $carried = self::carried($take, $sources);
        if ($carried->isEmpty()) {
            return;
        }
        $lines = [];
        foreach ($sources->rows($carried->groupBy('side')->map(fn ($all) => $all->pluck('row')->unique()->all())->all()) as $found) {
            [$row, $side, $of] = $found;
            foreach ($carried->where('side', $side)->where('row', $of) as $c) {
                $position = $sources->position($side, $c->position);
                if ($position !== null) {
                    $lines[] = self::line($take->id, $row, $c->correction, $position, CorrectionState::Carried);
                }
            }
        }
        // What lies over no row of the feed is written down too, so that it is not looked for again.
        foreach ($carried->pluck('correction')->diff(array_column($lines, 'correction_id'))->unique() as $correction) {
            $lines[] = self::line($take->id, 0, $correction, 0, CorrectionState::WithoutRow);
        }
        foreach (array_chunk($lines, 1000) as $some) {
            DB::table('correction_places')->insertOrIgnore($some);
        }
    }

    /** @return Collection<int, \stdClass> side, correction, row, position: what lies over the extracts and not over the feed yet */
    private static function carried(Take $take, FeedSources $sources): Collection
    {
        $carried = new Collection;
        foreach ($sources->takes as $side => $source) {
            self::complete($source);
            $found = DB::table('correction_places as p')
                ->join('corrections as c', 'c.id', '=', 'p.correction_id')
                ->where('p.take_id', $source->id)
                ->where('p.state', CorrectionState::Carried->value)
                ->where('c.ended', 0)
                ->where('c.whole', 0)
                ->whereNotExists(fn ($q) => $q->from('correction_places as f')
                    ->whereColumn('f.correction_id', 'p.correction_id')
                    ->where('f.take_id', $take->id))
                ->selectRaw('? AS side, p.correction_id AS correction, p.row_no AS `row`, p.position', [$side])
                ->get();
            $carried = $carried->concat($found);
        }

        return $carried;
    }

    /** @return array<string, int|string> */
    private static function line(int $take, int $row, int $correction, int $position, CorrectionState $state): array
    {
        return ['take_id' => $take, 'row_no' => $row, 'correction_id' => $correction, 'position' => $position, 'state' => $state->value];
    }

    /** @return Builder<Correction> */
    private static function missing(Take $take): Builder
    {
        $missing = Correction::query();
        $missing->whereNotExists(fn ($q) => $q
            ->from('correction_places as p')
            ->whereColumn('p.correction_id', 'corrections.id')
            ->where('p.take_id', $take->id));
        $missing->whereRaw('(corrections.until_take IS NULL OR corrections.until_take > ?)', [$take->number]);

        return $missing;
    }
}
