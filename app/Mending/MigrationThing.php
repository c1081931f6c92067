<?php

namespace App\Mending;

use App\DryRuns\DryRuns;
use App\Files\Words;
use App\Models\Migration;
use App\Models\Round;
use App\Overview\OverviewBook;
use App\Support\Amount;
use Illuminate\Support\Facades\DB;

final readonly class MigrationThing implements Thing
{
    public function __construct(private Migration $migration)
    {
    }

    public function label(): string
    {
        return "the migration {$this->migration->name}";
    }

    public function fields(): array
    {
        return [
            'name' => ['label' => 'Name', 'value' => $this->migration->name],
            'target_name' => ['label' => 'The new application', 'value' => $this->migration->target_name],
        ] + (count(Words::languages()) === 1 ? [] : [
            'words' => [
                'label' => 'Words of files for the client', 'value' => $this->migration->words, 'choices' => Words::languages(),
            ],
        ]);
    }

    public function hangs(): array
    {
        return [
            Amount::of($this->migration->extracts()->count(), 'extract').' with '
                .Amount::of((int) $this->migration->takes()->sum('rows'), 'row').' and their files.',
            Amount::of($this->migration->loads()->count(), 'load').' and '
                .Amount::of($this->migration->codeCrosswalks()->count(), 'code crosswalk').'.',
            Amount::of($this->migration->rounds()->count(), 'round').' with all that is known of their rows.',
            'What was written into targets stays there.',
            'Its log goes with it.',
        ];
    }

    public function holds(): array
    {
        return array_merge([], ...$this->migration->rounds()->with('lane')->get()->map(
            fn (Round $r) => array_map(fn (string $why) => "Round $r->name: $why", (new RoundThing($r))->holds()),
        )->all());
    }

    public function change(array $values): void
    {
        if (($values['name'] ?? 'x') === '' || ($values['target_name'] ?? 'x') === '') {
            throw new \DomainException('Both have a name.');
        }
        if (isset($values['words']) && ! isset(Words::languages()[$values['words']])) {
            throw new \DomainException('There are no words in that language.');
        }
        $this->migration->update($values);
    }

    public function remove(): void
    {
        $this->migration->dryRuns()->get()->each(DryRuns::forget(...));
        foreach ($this->migration->rounds()->with('lane')->orderByDesc('id')->get() as $round) {
            (new RoundThing($round))->remove();
        }
        foreach ($this->migration->loads()->get() as $load) {
            (new LoadThing($load))->remove();
        }
        foreach ($this->migration->sources()->get() as $source) {
            (new SourceThing($source))->remove();
        }
        foreach (['control_totals', 'key_spaces', 'decisions', 'plan_versions'] as $table) {
            DB::table($table)->where('migration_id', $this->migration->id)->delete();
        }
        $this->migration->delete();
        OverviewBook::forget($this->migration->id);
    }

    public function after(): string
    {
        return '/';
    }
}
