<?php

namespace App\Mending;

use App\Decisions\RowKeys;
use App\Freezing\Freezer;
use App\Freezing\VaultFiles;
use App\Models\Extract;
use App\Models\Round;
use App\Models\Take;
use App\Models\TakeState;
use App\Support\Amount;
use Illuminate\Support\Facades\DB;

final readonly class TakeThing implements Thing
{
    public function __construct(private Take $take)
    {
    }

    public function label(): string
    {
        return "take {$this->take->number} of {$this->take->extract->source->code}/{$this->take->extract->name}";
    }

    public function fields(): array
    {
        return [];
    }

    public function hangs(): array
    {
        $before = $this->before();
        $isNewest = $this->take->extract->take_id === $this->take->id;

        return [
            Amount::of((int) $this->take->rows, 'row').' and what was found in them.',
            ...$this->take->file === '' ? [] : ["Its file, {$this->take->file_name}, where no other take was read from it."],
            ...! $isNewest ? [] : [$before === null
                ? 'It is the only one: the extract has no rows then, and nothing can be loaded from it.'
                : "It is the newest: the extract goes back to take $before->number."],
        ];
    }

    public function holds(): array
    {
        $rounds = self::rounds([$this->take->id]);
        $decided = DB::table('row_keys')->where('take_id', $this->take->id)->count();

        return [
            ...array_map(fn (string $r) => "The round $r works on it: what it says of its rows needs them.", $rounds),
            ...$decided === 0 ? [] : [
                'Corrections and waivers know their rows by it: '.Amount::of($decided, 'row').' of it decided about.',
            ],
            ...in_array($this->take->state, [TakeState::Reading, TakeState::Stopping], true) ? ['It is being read right now.'] : [],
        ];
    }

    public function change(array $values): void
    {
        throw new \DomainException('A take is as it was read; nothing of it can be changed.');
    }

    public function remove(): void
    {
        $extract = $this->take->extract;
        if ($extract->take_id === $this->take->id) {
            $before = $this->before();
            $extract->update(['take_id' => $before?->id, 'columns' => $before->columns ?? $extract->columns]);
        }
        self::delete($this->take);
    }

    public function after(): string
    {
        return "/m/{$this->take->extract->source->migration_id}/sources/extracts/{$this->take->extract_id}";
    }

    private function before(): ?Take
    {
        return $this->take->extract->takes()
            ->where('state', TakeState::Frozen)
            ->whereKeyNot($this->take->id)
            ->orderByDesc('number')
            ->first();
    }

    /**
     * @param  list<int>  $takes
     * @return list<string> names of rounds that work on one of them, or a pass of which did
     */
    public static function rounds(array $takes): array
    {
        return Round::query()
            ->where(fn ($q) => $q
                ->whereIn('id', DB::table('round_loads')->whereIntegerInRaw('take_id', $takes)->select('round_id'))
                ->orWhereIn('id', DB::table('pass_loads')->join('passes', 'passes.id', '=', 'pass_loads.pass_id')
                    ->whereIntegerInRaw('take_id', $takes)->select('passes.round_id')))
            ->orderBy('id')
            ->pluck('name')
            ->all();
    }

    public static function delete(Take $take): void
    {
        Freezer::forget($take->id);
        RowKeys::forgetTake($take->id);
        VaultFiles::forgetOf($take);
        $take->delete();
    }

    /** What was decided about rows of an extract goes with it. */
    public static function forgetDecisions(Extract $extract): void
    {
        RowKeys::forget($extract);
    }
}
