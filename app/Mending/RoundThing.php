<?php

namespace App\Mending;

use App\DryRuns\DryRuns;
use App\Ledger\LedgerEraser;
use App\Ledger\LedgerReader;
use App\Loading\Rounds;
use App\Models\DryRun;
use App\Models\Round;
use App\Models\Waiver;
use App\Support\Amount;

final readonly class RoundThing implements Thing
{
    public function __construct(private Round $round)
    {
    }

    public function label(): string
    {
        return "the round {$this->round->name}";
    }

    public function fields(): array
    {
        return [
            'name' => ['label' => 'Name', 'value' => $this->round->name],
            'note' => ['label' => 'What it is for', 'value' => (string) $this->round->note],
        ];
    }

    public function hangs(): array
    {
        $rows = array_sum(LedgerReader::ofLanes([$this->round->lane->id ?? 0])[$this->round->lane->id ?? 0] ?? []);
        $waivers = Waiver::query()->where('round_id', $this->round->id)->count();
        $isWritten = $this->round->lane !== null && (new LedgerReader($this->round))->hasWritten();

        return [
            Amount::of($this->round->passes()->count(), 'pass', 'passes').' and the outcomes of '.Amount::of($rows, 'row')
                .', with its key crosswalk.',
            ...! $isWritten ? [] : [
                'What it wrote stays in the target: it is not backed out, and nothing here knows it any more.',
            ],
            ...$waivers === 0 ? [] : [Amount::of($waivers, 'waiver').' made in it'.($this->heir() === null
                ? ' goes with it.'
                : ": {$this->heir()->name} keeps them.")],
        ];
    }

    public function holds(): array
    {
        return [
            ...$this->round->latestPass()?->isGoing() ? ['A pass is at work in it.'] : [],
            ...$this->round->kind === 'cutover' && $this->round->hasEnded()
                ? ['It is a cutover that has ended: what it says is the proof.']
                : [],
        ];
    }

    public function change(array $values): void
    {
        $name = $values['name'] ?? $this->round->name;
        if (preg_match('/^[a-z0-9][a-z0-9-]{0,59}$/', $name) !== 1) {
            throw new \DomainException('A name of small letters, digits and hyphens.');
        }
        Rounds::describe($this->round, $name, $values['note'] ?? (string) $this->round->note);
    }

    public function remove(): void
    {
        DryRun::query()->where('round_id', $this->round->id)->get()->each(DryRuns::forget(...));
        $heir = $this->heir();
        if ($heir === null) {
            Waiver::query()->withoutGlobalScopes()->where('round_id', $this->round->id)->delete();
        } else {
            Waiver::query()->withoutGlobalScopes()->where('round_id', $this->round->id)->update(['round_id' => $heir->id]);
        }
        LedgerEraser::erase($this->round);
    }

    public function after(): string
    {
        return "/m/{$this->round->migration_id}/runs";
    }

    /** Waivers hold in later rounds: another one keeps them. */
    private function heir(): ?Round
    {
        return Round::query()->where('migration_id', $this->round->migration_id)->whereKeyNot($this->round->id)->latest('id')->first();
    }
}
