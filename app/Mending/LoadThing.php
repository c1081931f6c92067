<?php

namespace App\Mending;

use App\Ledger\LedgerReader;
use App\Loading\DueSoon;
use App\Models\ControlTotal;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Waiver;
use App\Reckoning\ControlTotals;
use App\Support\Amount;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Support\Facades\DB;

final readonly class LoadThing implements Thing
{
    public function __construct(private Load $load)
    {
    }

    public function label(): string
    {
        return "the load {$this->load->name}";
    }

    public function fields(): array
    {
        $extracts = Extract::query()
            ->whereHas('source', fn ($q) => $q->where('migration_id', $this->load->migration_id))
            ->whereNotNull('take_id')
            ->with('source')
            ->get()
            ->mapWithKeys(fn (Extract $e) => [$e->id => "{$e->source?->code}/$e->name"])
            ->all();

        return [
            'name' => ['label' => 'Name', 'value' => $this->load->name],
            'extract_id' => ['label' => 'Reads', 'value' => (string) $this->load->extract_id, 'choices' => $extracts],
            'note' => ['label' => 'Note', 'value' => (string) $this->load->note],
        ];
    }

    public function hangs(): array
    {
        $rules = $this->load->rules()->whereNotNull('expression')->count();
        $waivers = Waiver::query()->withoutGlobalScopes()->where('load_id', $this->load->id)->count();
        $totals = ControlTotal::query()->where('load_id', $this->load->id)->count();

        return [
            ...$totals === 0 ? [] : [Amount::of($totals, 'control total').'.'],
            ...$rules === 0 ? [] : [Amount::of($rules, 'rule').' with their history.'],
            ...$waivers === 0 ? [] : [Amount::of($waivers, 'waiver').'.'],
        ];
    }

    public function holds(): array
    {
        $rounds = DB::table('round_loads as l')->join('rounds as r', 'r.id', '=', 'l.round_id')->where('l.load_id', $this->load->id)
            ->pluck('r.name')->all();

        return array_map(fn (string $r) => "The round $r has outcomes of it: what it says of them needs the load.", array_values($rounds));
    }

    public function change(array $values): void
    {
        $name = $values['name'] ?? $this->load->name;
        if ($name === '' || mb_strlen($name) > 100) {
            throw new \DomainException('A name of up to 100 characters.');
        }
        if (Load::query()->where('migration_id', $this->load->migration_id)->whereKeyNot($this->load->id)->where('name', $name)->exists()) {
            throw new \DomainException("There is a load $name already.");
        }
        if (isset($values['extract_id'])) {
            $this->mayRead((int) $values['extract_id']);
        }
        ControlTotals::renamed($this->load, $name);
        $this->load->update($values);
        (new DueSoon)->changed($this->load->migration()->firstOrFail());
    }

    public function remove(): void
    {
        if (LedgerReader::knows($this->load->id)) {
            throw new \DomainException('Rounds have outcomes of this load, so it stays.');
        }
        Waiver::query()->withoutGlobalScopes()->where('load_id', $this->load->id)->delete();
        $this->load->delete();
    }

    public function after(): string
    {
        return "/m/{$this->load->migration_id}/mapping";
    }

    /** Rounds that were begun keep their takes. @throws \DomainException where its key or a rule names a column the extract has not */
    private function mayRead(int $id): void
    {
        $extract = Extract::query()->whereHas('source', fn ($q) => $q->where('migration_id', $this->load->migration_id))->find($id)
            ?? throw new \DomainException('There is no such extract.');
        $columns = $extract->tidyColumns();
        $missing = array_filter($this->load->key_columns, fn (string $c) => $columns->find($c) === null);
        if ($missing !== []) {
            throw new \DomainException("$extract->name has no column ".implode(', ', $missing).', which the legacy key is made of.');
        }
        $rules = $this->load->rules()->whereNotNull('expression')->pluck('expression', 'field')->all();
        $rules += ['its scope' => $this->load->scope];
        foreach (array_filter($rules) as $field => $expression) {
            try {
                (new Compiler($columns))->compile((string) $expression);
            } catch (ExpressionError $e) {
                throw new \DomainException("$extract->name does not fit the rule of $field: {$e->getMessage()}");
            }
        }
    }
}
