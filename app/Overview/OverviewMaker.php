<?php

namespace App\Overview;

use App\Catalogue\CodeFit;
use App\Catalogue\CodeUse;
use App\Catalogue\CodeValue;
use App\Catalogue\Definitions;
use App\Mapping\LoadChecker;
use App\Mapping\Shelf;
use App\Models\CodeCrosswalk;
use App\Models\Entity;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Take;
use App\Models\TakeState;
use App\Support\Amount;
use Baggage\Core\Ordering\OrderError;
use Illuminate\Support\Collection;

/** Makes a migration's overview from its definition. */
final class OverviewMaker
{
    private function __construct(private readonly Migration $migration, private readonly Definitions $definitions)
    {
    }

    public static function of(Migration $migration): Overview
    {
        return (new self($migration, new Definitions($migration)))->make();
    }

    private function make(): Overview
    {
        $error = null;
        try {
            $loads = $this->definitions->loads();
        } catch (OrderError $e) {
            $error = $e->getMessage();
            $loads = $this->definitions->unordered();
        }
        $findings = $this->migration->openFindings();
        $undecided = (new Shelf($this->definitions))->countUndecided();
        $codes = $error === null ? $this->codes() : [];
        $entities = Entity::query()->where('migration_id', $this->migration->id)->orderBy('position')->pluck('name', 'id')->all();

        return new Overview(
            $error,
            array_values($loads->map(fn (Load $l) => self::listed($l, $undecided[$l->extract_id] ?? 0))->all()),
            $this->entities($loads, $entities, $error === null),
            [
                'sources' => $this->sources($findings),
                'target' => [Amount::of(count($entities), 'entity', 'entities'), $entities !== []],
            ] + ($error === null ? $this->mapped($loads, array_sum($undecided), $codes) : [
                'mapping' => ['the order is a circle', false],
                'crosswalks' => ['the order is a circle', false],
                'order' => ['a circle', false],
            ]),
            $codes,
            $this->extracts(),
            $this->definitions->parameters(),
            LoadChecker::basis($this->definitions),
            $findings,
        );
    }

    private static function listed(Load $load, int $undecided): ListedLoad
    {
        $take = $load->extract->take;

        return new ListedLoad(
            $load->id,
            $load->name,
            $load->entity_id,
            $load->entity->name,
            $load->keySpace(),
            $load->extract_id,
            $load->extract->name,
            $load->extract->source->code,
            $take?->id,
            (int) $take?->rows,
            (int) $take?->source_rows,
            count($load->entity->described()->writable()),
            $load->rules->whereNotNull('expression')->count(),
            $load->rules->whereNotNull('empty_reason')->count(),
            $undecided,
            $load->policy->label(),
        );
    }

    /**
     * @param  Collection<int, Load>  $loads
     * @param  array<int, string>  $all  id → name
     * @return list<ListedEntity> by wave, then as their loads run; last those no load fills
     */
    private function entities(Collection $loads, array $all, bool $isOrdered): array
    {
        $waves = $isOrdered ? $this->definitions->order()->waves : [];
        $listed = $loads
            ->unique('entity_id')
            ->map(fn (Load $l) => new ListedEntity($l->entity_id, $l->entity->name, $waves[$l->entity->name] ?? null))
            ->sortBy(fn (ListedEntity $e) => $e->wave ?? PHP_INT_MAX)
            ->values();
        foreach (array_diff_key($all, $listed->keyBy('id')->all()) as $id => $name) {
            $listed->push(new ListedEntity($id, $name, null));
        }

        return array_values($listed->all());
    }

    /** @return array{string, bool} */
    private function sources(int $findings): array
    {
        $frozen = $this->migration->extracts()->whereNotNull('take_id')->count();
        $failed = Take::query()
            ->where('state', TakeState::Failed)
            ->whereHas('extract', fn ($q) => $q->whereNull('take_id'))
            ->whereRelation('extract.source', 'migration_id', $this->migration->id)
            ->count();
        $open = $failed > 0
            ? Amount::of($failed, 'extract').' failed'
            : Amount::of($frozen, 'extract').', '.Amount::of($findings, 'finding');

        return [$open, $frozen > 0 && $failed === 0 && $findings === 0];
    }

    /**
     * @param  Collection<int, Load>  $loads
     * @param  int  $undecided  columns
     * @param  list<ListedCrosswalk>  $codes
     * @return array<string, array{string, bool}>
     */
    private function mapped(Collection $loads, int $undecided, array $codes): array
    {
        $n = $loads->count();
        $unread = count(array_filter((new Shelf($this->definitions))->unread(), fn ($e) => $e->not_loaded === null));
        $order = $this->definitions->order();
        $waves = $order->waves === [] ? 0 : max($order->waves);
        $open = match (true) {
            $n === 0 => 'no load yet',
            $undecided > 0 => Amount::of($undecided, 'column').' undecided',
            $unread > 0 => Amount::of($unread, 'extract').' undecided',
            default => 'all columns decided',
        };

        return [
            'mapping' => [$open, $n > 0 && $undecided + $unread === 0],
            'crosswalks' => [self::openCodes($codes), $n > 0 && ! in_array(false, array_map(fn ($c) => $c->isDone(), $codes), true)],
            'order' => $n === 0
                ? ['nothing to order', false]
                : [Amount::of($waves, 'wave').', '.count($order->deferred).' deferred', true],
        ];
    }

    /** @param  list<ListedCrosswalk>  $codes */
    private static function openCodes(array $codes): string
    {
        $missing = count(array_filter($codes, fn (ListedCrosswalk $c) => $c->isMissing()));
        $unmapped = array_sum(array_column($codes, 'unmapped'));
        $refused = array_sum(array_column($codes, 'refused'));

        return match (true) {
            $missing > 0 => Amount::of($missing, 'crosswalk').' missing',
            $unmapped > 0 => Amount::of($unmapped, 'code').' unmapped',
            $refused > 0 => Amount::of($refused, 'code').' not allowed',
            default => 'all codes mapped',
        };
    }

    /** @return list<ListedExtract> */
    private function extracts(): array
    {
        return array_values($this->migration
            ->frozenExtracts()
            ->toBase()
            ->map(fn (Extract $e) => new ListedExtract($e->id, $e->name, (string) $e->source?->code))
            ->all());
    }

    /** @return list<ListedCrosswalk> those there are, then those that rules name and nobody has made */
    private function codes(): array
    {
        $use = CodeUse::by($this->definitions);
        $entities = $this->definitions->loads()->mapWithKeys(fn (Load $l) => [$l->entity_id => $l->entity->described()])->all();
        $crosswalks = $this->migration->codeCrosswalks()->with('entries')->orderBy('name')->get();
        $listed = [];
        foreach ($crosswalks as $c) {
            $uses = $use->of($c->name);
            $fit = CodeFit::of($uses, $entities);
            $values = $use->values($c);
            $refused = count(array_filter($values, fn (CodeValue $v) => $v->mapped && ! $v->rejected && $fit->refusal($v->new) !== null));
            $listed[] = new ListedCrosswalk($c->id, $c->name, count($values), $use->unmapped($c), $refused, $uses);
        }
        foreach ($use->missing(array_values($crosswalks->map(fn (CodeCrosswalk $c) => $c->name)->all())) as $name) {
            $listed[] = new ListedCrosswalk(null, $name, $n = $use->waiting($name), $n, 0, $use->of($name));
        }

        return $listed;
    }
}
