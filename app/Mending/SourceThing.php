<?php

namespace App\Mending;

use App\Models\Connection;
use App\Models\Extract;
use App\Models\KeySpace;
use App\Models\Rule;
use App\Models\Source;
use App\Support\Amount;
use Illuminate\Support\Facades\DB;

final readonly class SourceThing implements Thing
{
    public function __construct(private Source $source)
    {
    }

    public function label(): string
    {
        return "the source {$this->source->code}";
    }

    public function fields(): array
    {
        return [
            'code' => ['label' => 'Code', 'value' => $this->source->code],
            'name' => ['label' => 'Name', 'value' => $this->source->name],
            'notes' => ['label' => 'Notes', 'value' => (string) $this->source->notes],
        ];
    }

    public function hangs(): array
    {
        $extracts = $this->source->extracts()->pluck('name')->all();
        $connections = Connection::query()->where('source_id', $this->source->id)->pluck('name')->all();

        return [
            ...$extracts === [] ? [] : [Amount::of(count($extracts), 'extract').' with all their takes: '.implode(', ', $extracts).'.'],
            ...$connections === [] ? [] : [Amount::of(count($connections), 'connection').': '.implode(', ', $connections).'.'],
        ];
    }

    public function holds(): array
    {
        return array_merge([], ...$this->extracts()->map(fn (ExtractThing $e) => $e->holds($this->source))->all());
    }

    public function change(array $values): void
    {
        $code = $values['code'] ?? $this->source->code;
        if (preg_match('/^[A-Z0-9]{1,12}$/', $code) !== 1) {
            throw new \DomainException('A code is up to 12 capitals and digits.');
        }
        if ($code !== $this->source->code) {
            $this->mayBeCalled($code);
        }
        if (($values['name'] ?? 'x') === '') {
            throw new \DomainException('A source has a name.');
        }
        DB::transaction(function () use ($values, $code) {
            foreach ($code === $this->source->code ? [] : $this->source->extracts as $extract) {
                ExtractThing::called($extract, "{$this->source->code}/$extract->name", "$code/$extract->name");
            }
            $this->source->update($values);
        });
    }

    public function remove(): void
    {
        foreach ($this->extracts() as $extract) {
            $extract->remove();
        }
        $this->source->delete();
    }

    public function after(): string
    {
        return "/m/{$this->source->migration_id}/sources";
    }

    /** Keys of rounds stand in spaces called by the code, and rules may name it. */
    private function mayBeCalled(string $code): void
    {
        $migration = $this->source->migration_id;
        if (Source::query()->where('migration_id', $migration)->where('code', $code)->exists()) {
            throw new \DomainException("There is a source $code already.");
        }
        if (KeySpace::query()->where('migration_id', $migration)->where('name', $this->source->code)->exists()) {
            throw new \DomainException('Rounds keep legacy keys under this code; it stays. The name can be changed.');
        }
        $rules = Rule::query()->whereHas('ofLoad', fn ($q) => $q->where('migration_id', $migration))
            ->where('expression', 'like', "%{$this->source->code}%")->where('expression', 'like', '%parent%')->count();
        if ($rules > 0) {
            throw new \DomainException(Amount::of($rules, 'rule').' may name it in parent(): change them first.');
        }
    }

    /** @return \Illuminate\Support\Collection<int, ExtractThing> those made of others first */
    private function extracts(): \Illuminate\Support\Collection
    {
        return $this->source->extracts()->with('source')->get()
            ->sortByDesc(fn (Extract $e) => [$e->isMade(), $e->id])
            ->map(fn (Extract $e) => new ExtractThing($e))
            ->values();
    }
}
