<?php

namespace App\Reckoning;

use App\Models\Audit;
use App\Models\ControlTotal;
use App\Models\Load;
use App\Models\Migration;
use App\Models\User;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Reconciling\ControlTotal as Described;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** The control totals of a migration. */
final class ControlTotals
{
    /** @return Collection<int, ControlTotal> in their order */
    public static function of(Migration $migration): Collection
    {
        return ControlTotal::query()->where('migration_id', $migration->id)->with(['entity', 'ofLoad'])->orderBy('position')
            ->orderBy('id')->get();
    }

    /**
     * Those of a plan take the place of those there are.
     *
     * @param  list<Described>  $totals
     */
    public static function become(Migration $migration, array $totals): void
    {
        $entities = $migration->entities()->pluck('id', 'name');
        $loads = $migration->loads()->get(['id', 'name', 'entity_id'])->keyBy('name');
        foreach ($totals as $i => $total) {
            $load = $total->load === null ? null : $loads[$total->load];
            $kept = ControlTotal::query()->firstOrNew(['migration_id' => $migration->id, 'name' => $total->name]);
            $kept->fill([
                'entity_id' => $load->entity_id ?? $entities[$total->entity],
                'load_id' => $load?->id,
                'position' => $i + 1,
                'definition' => self::definition($total),
            ]);
            if ($kept->isDirty(['definition', 'entity_id', 'load_id'])) {
                // Somebody who has it before them on a screen is told that it is not as it was.
                $kept->fill(['version' => $kept->exists ? $kept->version + 1 : 1, 'user_id' => Auth::id()]);
            }
            $kept->save();
        }
        $names = array_map(fn (Described $t) => $t->name, $totals);
        ControlTotal::query()->where('migration_id', $migration->id)->whereNotIn('name', $names)->delete();
    }

    /** @return array<string, mixed> */
    private static function definition(Described $total): array
    {
        return array_diff_key($total->toPlan(), ['name' => 0, 'entity' => 0, 'load' => 0]);
    }

    /**
     * Keeps one as somebody said it.
     *
     * @param  int|null  $id  null for a new one
     * @param  int  $version  that was before them
     *
     * @throws \DomainException what is wrong with it, or that somebody changed or removed it meanwhile
     */
    public static function keep(Migration $migration, ?int $id, int $version, Described $total, User $user): ControlTotal
    {
        $problem = self::problem($migration, $total, $id);
        if ($problem !== null) {
            throw new \DomainException($problem);
        }

        return DB::transaction(function () use ($migration, $id, $version, $total, $user) {
            $all = ControlTotal::query()->where('migration_id', $migration->id);
            $kept = $id === null ? new ControlTotal(['migration_id' => $migration->id, 'position' => (int) $all->max('position') + 1])
                : (clone $all)->whereKey($id)->lockForUpdate()->first() ?? throw new \DomainException('Somebody removed it meanwhile.');
            if ($id !== null && $kept->version !== $version) {
                throw new \DomainException('Somebody changed it meanwhile: '.$kept->described()->name.' stands above as it is now.');
            }
            $load = $total->load === null ? null : $migration->loads()->where('name', $total->load)->firstOrFail();
            $kept->fill([
                'entity_id' => $load->entity_id ?? $migration->entities()->where('name', $total->entity)->firstOrFail()->id,
                'load_id' => $load?->id, 'name' => $total->name, 'definition' => self::definition($total),
                'version' => $id === null ? 1 : $version + 1, 'user_id' => $user->id,
            ])->save();
            Audit::note($migration->id, ($id === null ? 'added' : 'changed')." control total $total->name", $total->toPlan());

            return $kept;
        });
    }

    /** A load is about to have another name, by which totals of several loads know its expression. */
    public static function renamed(Load $load, string $name): void
    {
        foreach ($name === $load->name ? [] : ControlTotal::query()->where('migration_id', $load->migration_id)->get() as $total) {
            $definition = $total->definition;
            foreach (['legacy', 'by', 'against'] as $part) {
                $of = $part === 'legacy' ? $definition['legacy'] : $definition[$part]['legacy'] ?? null;
                if (is_array($of) && isset($of[$load->name])) {
                    $of = [$name => $of[$load->name]] + array_diff_key($of, [$load->name => '']);
                    $part === 'legacy' ? $definition['legacy'] = $of : $definition[$part]['legacy'] = $of;
                }
            }
            $total->update(['definition' => $definition]);
        }
    }

    public static function remove(Migration $migration, ControlTotal $total): void
    {
        $total->delete();
        Audit::note($migration->id, "removed control total $total->name", $total->definition);
    }

    /** What is wrong with one, in words; null where nothing is. */
    public static function problem(Migration $migration, Described $total, ?int $id = null): ?string
    {
        $of = $migration->loads()->with(['entity', 'extract.source', 'extract.take'])->get();
        $loads = $of->filter(fn ($l) => $total->isOf($l->name, $l->entity->name))->values();
        $entity = $migration->entities()->where('name', $total->entity)->first()?->described();
        $taken = ControlTotal::query()->where('migration_id', $migration->id)->where('name', $total->name)
            ->when($id !== null, fn ($q) => $q->where('id', '<>', $id))->exists();
        $field = $entity?->fields[$total->field] ?? null;
        $group = $total->groupField === null ? null : $entity?->fields[$total->groupField] ?? null;
        $parent = $group?->refers === null ? null : $migration->entities()->where('name', $group->refers)->first()?->described();
        $own = $total->problem();

        return match (true) {
            $own !== null => $own->value,
            $taken => "There is a control total $total->name already.",
            $entity === null => "The target has no entity \"$total->entity\".",
            $field === null => "$total->entity has no field \"$total->field\".",
            $total->groupField !== null && $group === null => "$total->entity has no field \"$total->groupField\".",
            $loads->isEmpty() => 'It needs an expression for the legacy rows of at least one load.',
            $total->parentField !== null && $parent === null => 'Children are added up by the record they refer to: group by a reference.',
            $total->parentField !== null && ! isset($parent->fields[$total->parentField]) => "$parent->name has no field "
                ."\"$total->parentField\".",
            default => self::notUnderstood($total, $loads, $of->filter(fn ($l) => $l->entity->name === $parent?->name)),
        };
    }

    /**
     * @param  Collection<int, \App\Models\Load>  $loads  it is about
     * @param  Collection<int, \App\Models\Load>  $parents
     */
    private static function notUnderstood(Described $total, Collection $loads, Collection $parents): ?string
    {
        $wanted = [];
        foreach ($loads as $load) {
            array_push($wanted, [$load, $total->legacyOf($load->name)], [$load, $total->groupOf($load->name)]);
            if ($total->groupField !== null && $total->groupOf($load->name) === null) {
                return "The group of the rows of $load->name is missing.";
            }
        }
        foreach ($total->parentField === null ? [] : $parents as $load) {
            $wanted[] = [$load, $total->parentOf($load->name)];
        }
        foreach ($wanted as [$load, $expression]) {
            try {
                $expression === null ?: (new Compiler($load->extract->tidyColumns()))->compile($expression);
            } catch (ExpressionError $e) {
                return "On the rows of $load->name: {$e->getMessage()}";
            }
        }

        return null;
    }
}
