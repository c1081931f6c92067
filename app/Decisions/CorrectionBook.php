<?php

namespace App\Decisions;

use App\Models\Correction;
use App\Models\Extract;
use App\Models\Repair;
use App\Models\Take;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use App\Support\Meanwhile;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Rows\CorrectionState;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/**
 * Writes corrections. They lie on extracts that were read: one over a cell of a made feed is written down for the cell it stands for.
 */
final class CorrectionBook
{
    /**
     * One value in a column of some rows.
     *
     * @param  Take  $take  whose rows are meant
     * @param  list<int>  $rows
     * @param  int|null  $seen  the last decision whoever asks for it could have seen
     * @return list<Extract> feeds that have to be made again for it
     *
     * @throws \DomainException when there is no such cell, or it cannot be told what it stands for
     * @throws \App\Support\EditLost where somebody corrected one of them otherwise since
     */
    public function cells(Take $take, array $rows, string $header, ?string $new, string $reason, ?int $seen = null): array
    {
        $column = $take->tidyColumns()->find($header) ?? throw new \DomainException("The extract has no column \"$header\".");
        $known = StagedRows::known($take->id, $rows);
        if (count($known) < count(array_unique($rows))) {
            $gone = array_values(array_diff($rows, array_keys($known)))[0];
            throw new \DomainException("The extract has no row $gone.");
        }
        $format = $take->recipe === null ? null : Formats::settings($take->recipe)->format;
        if ($format instanceof FeedFormat) {
            return $this->below($take, $format, $known, $column->position, array_fill_keys(array_keys($known), $new), $reason, $seen);
        }
        foreach ($seen === null ? [] : Corrections::since($take->id, $rows, $column->header, $seen) as $row => $theirs) {
            Meanwhile::differs("$column->header, in row $row", $theirs, (string) $new);
        }
        $this->put($take, $known, $column->position, array_fill_keys(array_keys($known), $new), $reason);

        return $this->feedsMadeBy($take, $column->header);
    }

    /**
     * A value of its own for each of some rows.
     *
     * @param  Take  $take  whose rows are meant
     * @param  array<int, string|null>  $news  row → what its cell in the column is to say
     *
     * @throws \DomainException when it cannot be told what a cell stands for
     */
    public function various(Take $take, int $position, array $news, string $reason): void
    {
        $known = StagedRows::known($take->id, array_keys($news));
        $format = $take->recipe === null ? null : Formats::settings($take->recipe)->format;
        $format instanceof FeedFormat
            ? $this->below($take, $format, $known, $position, $news, $reason, null)
            : $this->put($take, $known, $position, $news, $reason);
    }

    /**
     * Those of some rows that do not say it already.
     *
     * @param  list<int>  $rows
     * @return list<int>
     *
     * @throws \DomainException when there is no such column
     */
    public static function otherwise(Take $take, array $rows, string $header, ?string $new): array
    {
        $at = $take->tidyColumns()->find($header)->position ?? throw new \DomainException("The extract has no column \"$header\".");
        $cells = (new StagedRows($take->id))->numbered($rows);

        return array_values(array_filter($rows, fn (int $row) => (string) ($cells[$row][$at] ?? '') !== (string) $new));
    }

    /**
     * A row as it is to be, cell by cell: for rows that have too few or too many.
     *
     * @param  list<string|null>  $cells
     * @return list<Extract> feeds that have to be made again for it
     *
     * @throws \DomainException
     */
    public function row(Take $take, int $row, array $cells, string $reason): array
    {
        [, , $read] = StagedRows::known($take->id, [$row])[$row] ?? throw new \DomainException("The extract has no row $row.");
        if ($take->recipe !== null) {
            throw new \DomainException('A made feed has no rows of its own: repair the row in the extract it was made of.');
        }
        $width = count($take->columns ?? []);
        if (count($cells) !== $width) {
            throw new \DomainException("The row needs $width cells, one for each column, not ".count($cells).'.');
        }
        $this->write($take, [$row => [self::json($read), self::json(self::asRead($cells, $read))]], null, $reason);

        return $this->feedsMadeBy($take, null);
    }

    /**
     * Forms write line ends their own way, and know no difference between a blank cell and none: what was not touched stays as read.
     *
     * @param  list<string|null>  $cells
     * @param  list<string|null>  $read
     * @return list<string|null>
     */
    private static function asRead(array $cells, array $read): array
    {
        $plain = fn (?string $cell) => str_replace(["\r\n", "\r"], "\n", (string) $cell);
        $known = [];
        foreach ($read as $cell) {
            $known[$plain($cell)] ??= $cell;
        }
        foreach ($cells as $i => $cell) {
            $hadNone = array_key_exists($i, $read) && $read[$i] === null;
            $cells[$i] = $hadNone && $cell === '' ? null : $known[$plain($cell)] ?? $cell;
        }

        return $cells;
    }

    /**
     * Corrections made with some numbers count no longer; those they replaced do again.
     *
     * @param  list<int>  $numbers
     * @return array{int, list<Extract>} how many, feeds that have to be made again for it
     */
    public static function undo(int $migration, array $numbers): array
    {
        $mine = fn () => Correction::query()->whereIntegerInRaw('decision', $numbers);
        $kinds = $mine()->distinct()->get(['extract_id', 'header', 'whole']);
        if ($kinds->isEmpty()) {
            return [0, []];
        }
        $number = Numbers::next($migration, 'correction undone');
        $n = $mine()->update(['ended' => $number]);
        self::revive($number, $numbers, Repair::takenBack($migration));
        $feeds = [];
        foreach ($kinds as $correction) {
            $take = Take::query()->find($correction->extract?->take_id);
            if ($take !== null) {
                array_push($feeds, ...(new self)->feedsMadeBy($take, $correction->whole ? null : $correction->header));
            }
        }

        return [$n, array_values(collect($feeds)->unique('id')->all())];
    }

    /**
     * What was replaced by corrections that were undone just now counts again; where that was taken back before, what it had replaced.
     *
     * @param  int  $number  that ended them
     * @param  list<int>  $of  their own
     * @param  list<int>  $takenBack
     */
    private static function revive(int $number, array $of, array $takenBack): void
    {
        while ($of !== []) {
            $replaced = fn () => Correction::query()
                ->withoutGlobalScopes()
                ->join('corrections as by', fn ($j) => $j
                    ->on('by.row_key_id', '=', 'corrections.row_key_id')
                    ->on('by.decision', '=', 'corrections.ended'))
                ->whereIntegerInRaw('by.decision', $of)
                ->where('by.ended', $number);
            $replaced()->whereIntegerNotInRaw('corrections.decision', $takenBack)->update(['corrections.ended' => 0]);
            $of = array_map(intval(...), $replaced()->distinct()->pluck('corrections.decision')->all());
            $replaced()->update(['corrections.ended' => $number]);
        }
    }

    /** From this take on the source's word counts again; rounds on earlier ones keep the correction. */
    public function end(Correction $correction, Take $take): void
    {
        DB::transaction(function () use ($correction, $take) {
            Numbers::next((int) $correction->extract?->source?->migration_id, 'correction ended');
            self::until($take, [$correction->id]);
        });
    }

    /**
     * The corrected value is put over what a newer take says, too.
     *
     * @throws \DomainException when the row is not there
     */
    public function again(Correction $correction, Take $take): void
    {
        $place = DB::table('correction_places')
            ->where('correction_id', $correction->id)
            ->where('take_id', $take->id)
            ->where('row_no', '>', 0)
            ->first();
        if ($place === null) {
            throw new \DomainException(
                "The row of the correction to \"$correction->new_value\" is not in take $take->number: there is nothing to put it over.",
            );
        }
        $this->write(
            $take,
            [(int) $place->row_no => [$place->found, $correction->new_value]],
            $correction->whole ? null : (int) $place->position,
            (string) $correction->reason,
        );
    }

    /**
     * @param  array<int, array{int, string, list<string|null>}>  $known  rows of the feed
     * @param  array<int, string|null>  $news  by row
     * @return list<Extract>
     */
    private function below(Take $take, FeedFormat $format, array $known, int $position, array $news, string $reason, ?int $seen): array
    {
        $sources = FeedSources::of($take, $format);
        $again = [];
        foreach ($known as $row => [$line, , $cells]) {
            $origin = $sources->takes === [] ? null : $sources->origin($position, (string) ($cells[0] ?? ''));
            if ($origin === null) {
                throw new \DomainException(
                    "Row $row is of a made feed, {$format->describe()}: this cell stands for no single cell of an extract. "
                        .'Correct it where it was read, or by a rule or a code.',
                );
            }
            [$side, $at] = $origin;
            $of = $sources->takes[$side];
            $source = $sources->source($side, $line, $cells)
                ?? throw new \DomainException("The row of {$format->of[$side]} behind row $row cannot be told at once. Correct it there.");
            $again += collect($this->cells($of, [$source], $of->headers()[$at], $news[$row] ?? null, $reason, $seen))->keyBy('id')->all();
        }

        return array_values($again);
    }

    /**
     * @param  array<int, array{int, string, list<string|null>}>  $known  rows, as read
     * @param  array<int, string|null>  $news  by row
     */
    private function put(Take $take, array $known, int $position, array $news, string $reason): void
    {
        $values = $whole = [];
        $laid = Corrections::whole($take->id, array_keys($known));
        foreach ($known as $row => [, , $read]) {
            $new = $news[$row] ?? null;
            if (isset($laid[$row])) {
                // The row as it was made whole, with this cell changed.
                $made = (array) json_decode((string) $laid[$row]->new_value, true);
                $whole[$row] = [$laid[$row]->old_value, self::json(array_values(array_replace($made, [$position => $new])))];
            } else {
                $values[$row] = [$read[$position] ?? null, $new];
            }
        }
        $this->write($take, $values, $position, $reason);
        $this->write($take, $whole, null, $reason);
    }

    /**
     * @param  array<int, array{string|null, string|null}>  $values  row → old and new value
     * @param  int|null  $position  null for whole rows
     */
    private function write(Take $take, array $values, ?int $position, string $reason): void
    {
        if ($values === []) {
            return;
        }
        DB::transaction(function () use ($take, $values, $position, $reason) {
            $header = $position === null ? '' : (string) ($take->headers()[$position] ?? '');
            $keys = RowKeys::of($take, array_keys($values));
            DB::table('row_keys')->whereIntegerInRaw('id', $keys)->lockForUpdate()->get(['id']);
            $number = Numbers::next((int) $take->extract?->source?->migration_id, 'correction');
            self::replace($take, array_values($keys), $position === null ? null : $header, $number);
            Correction::query()->insert(array_map(
                fn (int $row) => ['row_key_id' => $keys[$row], 'old_value' => $values[$row][0], 'new_value' => $values[$row][1]]
                    + self::alike($take, $header, $position === null, $reason, $number),
                array_keys($values),
            ));
            $rows = array_flip($keys);
            DB::table('correction_places')->insert(
                Correction::query()->where('decision', $number)->get(['id', 'row_key_id', 'old_value'])->map(fn (Correction $c) => [
                    'take_id' => $take->id,
                    'row_no' => $rows[$c->row_key_id],
                    'correction_id' => $c->id,
                    'position' => $position,
                    'state' => CorrectionState::Carried->value,
                    'found' => $c->old_value,
                ])->all(),
            );
        });
    }

    /**
     * What lies over the cell in this take is replaced; what only lies over it in earlier ones goes on there.
     *
     * @param  list<int>  $keys
     * @param  string|null  $header  null for whole rows, which take the corrections of their cells along
     */
    private static function replace(Take $take, array $keys, ?string $header, int $number): void
    {
        $before = Correction::query()
            ->whereIntegerInRaw('row_key_id', $keys)
            ->when($header !== null, fn ($q) => $q->where('header', $header)->where('whole', false))
            ->pluck('id')
            ->all();
        $carried = DB::table('correction_places')
            ->where('take_id', $take->id)
            ->whereIntegerInRaw('correction_id', $before)
            ->where('state', CorrectionState::Carried->value)
            ->pluck('correction_id')
            ->all();
        Correction::query()->whereIntegerInRaw('id', $carried)->update(['ended' => $number]);
        self::until($take, array_values(array_diff($before, $carried)));
    }

    /** @param  list<int>  $corrections  that end with the take before this one */
    private static function until(Take $take, array $corrections): void
    {
        Correction::query()->whereIntegerInRaw('id', $corrections)->update(['until_take' => $take->number]);
        DB::table('correction_places')
            ->whereIntegerInRaw('correction_id', $corrections)
            ->whereIn('take_id', Take::query()->where('extract_id', $take->extract_id)->where('number', '>=', $take->number)->select('id'))
            ->delete();
    }

    /** @return array<string, mixed> what corrections made at once have in common */
    private static function alike(Take $take, string $header, bool $whole, string $reason, int $number): array
    {
        return [
            'extract_id' => $take->extract_id,
            'header' => $header,
            'whole' => $whole,
            'reason' => $reason,
            'decision' => $number,
            'user_id' => Auth::id(),
            'created_at' => now(),
            'updated_at' => now(),
        ];
    }

    /**
     * Feeds whose rows come together by the column.
     *
     * @param  string|null  $header  null for whole rows
     * @return list<Extract>
     */
    public function feedsMadeBy(Take $take, ?string $header): array
    {
        $extract = $take->extract()->with('source')->firstOrFail();
        $name = "{$extract->source?->code}/$extract->name";
        $again = [];
        $feeds = Extract::query()
            ->where('reader->kind', 'feed')
            ->whereHas('source', fn ($q) => $q->where('migration_id', $extract->source?->migration_id))
            ->whereNotNull('take_id')
            ->with('take')
            ->get();
        foreach ($feeds as $feed) {
            $format = $feed->settings()->format;
            $side = $format instanceof FeedFormat ? array_search($name, $format->of, true) : false;
            if ($format instanceof FeedFormat && $side !== false && $feed->take !== null) {
                $sources = FeedSources::of($feed->take, $format);
                if ($header === null || $sources->takes === [] || $sources->isMadeBy((int) $side, $header)) {
                    $again[] = $feed;
                }
            }
        }

        return $again;
    }

    /** @param  list<string|null>  $cells */
    private static function json(array $cells): string
    {
        return json_encode($cells, StagedRows::JSON | JSON_THROW_ON_ERROR);
    }
}
