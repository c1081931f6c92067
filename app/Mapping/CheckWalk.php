<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Mapping\Check;
use Baggage\Core\Mapping\CheckedRow;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * The walk of a check through all rows of a load: what each row shows by itself goes into the check, and what only all rows
 * together show is held as hashes, one side for the legacy key, each unique key, each reference and its parents.
 */
final class CheckWalk
{
    public const CHUNK = 5_000;

    private const KEY = 1;

    private const UNIQUE = 1_000;

    private const CHILD = 10_000;

    private const PARENT = 30_000;

    private string $lines = '';

    private int $pending = 0;

    /** @var array<string, CheckSide> by field and source */
    private array $sides = [];

    public function __construct(
        private readonly LoadCheck $check,
        private readonly Definitions $definitions,
        private readonly Load $load,
        private readonly ValueHashes $hashes,
    ) {
    }

    /** @return bool false when it was stopped */
    public function through(Check $found): bool
    {
        $rows = StagedRows::ofLoad($this->load);
        for ($after = 0; ($chunk = $rows->after($after, self::CHUNK)) !== []; $after = (int) max(array_keys($chunk))) {
            foreach ($chunk as $number => $cells) {
                $row = $found->row($number, $cells);
                if ($row !== null) {
                    $this->hold($number, $row);
                }
            }
            $this->flush();
            $noted = $found->noted();
            CheckRows::add(implode('', array_map(fn ($c) => "{$this->check->id}\t$c[0]\t$c[1]\n", $noted)), count($noted));
            if (! $this->check->goOn($found->rows)) {
                return false;
            }
        }
        $this->parents();
        $this->hashes->index();

        return true;
    }

    private function hold(int $number, CheckedRow $row): void
    {
        $entity = $this->load->entity->described();
        $this->put(self::KEY, $row->legacyKey, $number);
        foreach ($entity->uniques as $i => $fields) {
            $values = array_map(fn ($f) => $row->values[$f] ?? null, $fields);
            if (! in_array(null, $values, true)) {
                $this->put(self::UNIQUE + $i, mb_strtolower(implode("\x1F", $values)), $number);
            }
        }
        if ($this->load->reads()) {
            $this->put($this->side('', $entity->name, $this->load->keySpace())->child, $row->legacyKey, $number);
        }
        foreach ($row->parents as $field => $parent) {
            $refers = (string) $entity->fields[$field]->refers;
            $how = $this->definitions->normalisations()[$refers][$parent->space] ?? KeyNormalisation::Trim;
            $this->put($this->side($field, $refers, $parent->space)->child, LegacyKey::of($parent->parts, $how), $number);
        }
    }

    private function side(string $field, string $entity, string $space): CheckSide
    {
        return $this->sides["$field~$space"] ??= new CheckSide(
            $field,
            $entity,
            $space,
            self::CHILD + count($this->sides),
            self::PARENT + count($this->sides),
        );
    }

    private function put(int $side, string $value, int $row): void
    {
        $this->lines .= ValueHashes::line($side, hash('xxh3', $value), $row);
        $this->pending++;
    }

    private function flush(): void
    {
        $this->hashes->load($this->lines, $this->pending);
        $this->lines = '';
        $this->pending = 0;
    }

    /** The keys of all that is referred to. */
    private function parents(): void
    {
        foreach ($this->sides as $side) {
            foreach ($this->definitions->loads() as $load) {
                if (! $load->reads() && $load->entity->name === $side->entity && $load->keySpace() === $side->space) {
                    $this->keys($load, $side->parent);
                }
            }
        }
    }

    private function keys(Load $load, int $side): void
    {
        $rows = StagedRows::ofLoad($load);
        $mapper = $this->definitions->mapper($load);
        for ($after = 0; ($chunk = $rows->after($after, self::CHUNK)) !== []; $after = (int) max(array_keys($chunk))) {
            foreach ($chunk as $number => $cells) {
                $this->put($side, $mapper->legacyKey($cells), $number);
            }
            $this->flush();
        }
    }

    /** @return list<SharedFailure> what only all rows together show */
    public function together(): array
    {
        return [...$this->duplicates(), ...array_map($this->orphans(...), array_values($this->sides))];
    }

    /** @return list<SharedFailure> */
    private function duplicates(): array
    {
        $sides = [self::KEY => [[], 'The legacy key is that of an earlier row']];
        // Duplicates that a match rule merges are no failure.
        foreach (($this->load->match_rules ?: []) === [] ? $this->load->entity->described()->uniques : [] as $i => $fields) {
            $sides[self::UNIQUE + $i] = [$fields, 'Must be unique, and an earlier row has it'];
        }
        $found = [];
        foreach ($sides as $side => [$fields, $message]) {
            $earlier = fn (Builder $q) => $q->selectRaw('1')
                ->from('value_hashes as b')
                ->whereColumn('b.side', 'a.side')
                ->whereColumn('b.key_hash', 'a.key_hash')
                ->whereColumn('b.row_no', '<', 'a.row_no');
            $found[] = new SharedFailure(
                $fields === [] ? 'duplicate_key' : 'taken',
                array_values($fields),
                $message,
                DB::table('value_hashes as a')->where('a.side', $side)->whereExists($earlier),
            );
        }

        return $found;
    }

    private function orphans(CheckSide $side): SharedFailure
    {
        $parent = fn (Builder $q) => $q->selectRaw('1')
            ->from('value_hashes as p')
            ->where('p.side', $side->parent)
            ->whereColumn('p.key_hash', 'a.key_hash');

        return new SharedFailure(
            $side->field === '' ? 'no_match' : 'orphan',
            $side->field === '' ? [] : [$side->field],
            ucfirst(str_replace('_', ' ', $side->entity))." not found anywhere in $side->space",
            DB::table('value_hashes as a')->where('a.side', $side->child)->whereNotExists($parent),
        );
    }
}
