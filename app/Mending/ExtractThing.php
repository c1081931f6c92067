<?php

namespace App\Mending;

use App\Freezing\DependentFeeds;
use App\Models\Correction;
use App\Models\Extract;
use App\Models\Source;
use App\Models\TakeState;
use App\Support\Amount;
use Illuminate\Support\Facades\DB;

final readonly class ExtractThing implements Thing
{
    public function __construct(private Extract $extract)
    {
    }

    public function label(): string
    {
        return "the extract {$this->name()}";
    }

    public function fields(): array
    {
        return ['name' => ['label' => 'Name', 'value' => $this->extract->name]];
    }

    public function hangs(): array
    {
        $takes = $this->extract->takes()->get(['rows', 'state']);
        $corrections = Correction::query()->where('extract_id', $this->extract->id)->count();
        $files = $this->extract->takes()->where('file', '<>', '')->count();

        return [
            ...$takes->isEmpty() ? [] : [
                Amount::of($takes->count(), 'take').' with '.Amount::of((int) $takes->sum('rows'), 'row')
                    .($files > 0 ? ' and '.Amount::of($files, 'file') : '').'.',
            ],
            ...$corrections === 0 ? [] : [Amount::of($corrections, 'correction').' of its rows.'],
        ];
    }

    /** @param  Source|null  $with  that goes with all its extracts */
    public function holds(?Source $with = null): array
    {
        $feeds = array_filter(DependentFeeds::of($this->extract), fn (Extract $e) => $with === null || $e->source_id !== $with->id);
        $loads = $this->extract->loads()->pluck('name')->all();
        $rounds = TakeThing::rounds($this->extract->takes()->pluck('id')->all());
        $isRead = $this->extract->takes()->whereIn('state', [TakeState::Reading, TakeState::Stopping])->exists();

        return [
            ...array_map(fn (string $l) => "The load \"$l\" reads {$this->name()}: remove it or give it another extract.", $loads),
            ...array_map(fn (Extract $e) => "The feed $e->name is made of {$this->name()}: remove it first.", array_values($feeds)),
            ...array_map(fn (string $r) => "The round $r works on a take of {$this->name()}: it needs the rows.", $rounds),
            ...$isRead ? ["A take of {$this->name()} is being read right now."] : [],
        ];
    }

    public function change(array $values): void
    {
        $name = $values['name'] ?? $this->extract->name;
        if ($name === '' || mb_strlen($name) > 100 || str_contains($name, '/')) {
            throw new \DomainException('A name of up to 100 characters, without a slash.');
        }
        $others = Extract::query()->where('source_id', $this->extract->source_id)->whereKeyNot($this->extract->id);
        if ($others->where('name', $name)->exists()) {
            throw new \DomainException("The source has an extract $name already.");
        }
        DB::transaction(function () use ($name) {
            self::called($this->extract, $this->name(), "{$this->extract->source?->code}/$name");
            $this->extract->update(['name' => $name]);
        });
    }

    /** Feeds made of an extract name it. */
    public static function called(Extract $extract, string $before, string $now): void
    {
        foreach (DependentFeeds::of($extract) as $feed) {
            $reader = $feed->reader;
            $reader['of'] = array_map(fn (string $of) => $of === $before ? $now : $of, $reader['of'] ?? []);
            $feed->update(['reader' => $reader]);
        }
    }

    public function remove(): void
    {
        $takes = $this->extract->takes()->get();
        $this->extract->update(['take_id' => null]);
        TakeThing::forgetDecisions($this->extract);
        foreach ($takes as $take) {
            TakeThing::delete($take);
        }
        $this->extract->delete();
    }

    public function after(): string
    {
        return "/m/{$this->extract->source?->migration_id}/sources";
    }

    private function name(): string
    {
        return "{$this->extract->source?->code}/{$this->extract->name}";
    }
}
