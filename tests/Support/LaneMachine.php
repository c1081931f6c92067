<?php

namespace Tests\Support;

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Ordering\Reference;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\TextType;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** A migration that all sorts of things happen to, in memory. */
final class LaneMachine
{
    /** The load that changes the names of parties by their keys, between the two others. */
    private const READS = 3;

    private const LOADS = [1 => 'party', 2 => 'boat', self::READS => 'names'];

    private const RULES = ['trim(name)', 'upper(name)', "first(name, 'unnamed')"];

    /** @var list<string> what happened */
    public array $done = [];

    public int $kills = 0;

    private readonly Randomizer $random;

    private readonly MemoryTarget $target;

    /** @var array<string, array{headers: list<string>, rows: array<int, array<string, string>>}> load → the take that counts now */
    private array $takes = [];

    private string $rule = 'trim(name)';

    /** @var array<string, string> */
    private array $codes = ['N' => 'NO'];

    /** @var list<array<string, mixed>> lane, takes, plain, pass, kind, plan, plainPlan, open of each */
    private array $rounds = [];

    private int $passes = 0;

    /** @var array<int, string> pass → plan, as JSON */
    private array $plans = [];

    /** @var list<string> */
    private array $wrong = [];

    public function __construct(int $seed)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        $this->target = new MemoryTarget;
        foreach (self::LOADS as $load) {
            $this->newTake($load);
        }
    }

    /** One more thing happens. */
    public function step(): void
    {
        $round = array_key_last($this->rounds);
        $isOpen = $round !== null && $this->rounds[$round]['open'];
        $may = $isOpen
            ? ['run', 'run', 'kill', 'kill', 'away', 'take', 'rule', 'codes', 'resume']
            : ['round', 'take', 'rule', 'codes', 'retry', 'retry', 'round', 'correct', 'correct', 'waive', 'back'];
        $what = $may[$this->random->getInt(0, count($may) - 1)];
        if ($round === null && in_array($what, ['retry', 'run', 'correct', 'waive', 'back'], true)) {
            $what = 'round';
        }
        $this->done[] = $what;
        $before = $this->others($round);
        match ($what) {
            'round' => $this->begin(),
            'take' => $this->newTake(self::LOADS[$this->random->getInt(1, 3)]),
            'rule' => $this->rule = self::RULES[$this->random->getInt(0, 2)],
            'codes' => $this->codes = array_slice(['N' => 'NO', 'S' => 'SE', 'D' => 'DK'], 0, $this->random->getInt(1, 3), true),
            'retry' => $this->retry(),
            'correct' => $this->correct(),
            'waive' => $this->waive(true),
            'back' => $this->waive(false),
            'kill' => $this->broken_off(new Killed('kill -9')),
            'away' => $this->broken_off(TargetUnavailable::because('the target does not answer')),
            default => $this->go($this->random->getInt(1, 4)),
        };
        if ($round !== null && $before !== $this->others($round)) {
            $this->wrong[] = 'another round is not as it was';
        }
        $this->law();
    }

    public function finish(): void
    {
        $this->done[] = 'finish';
        if ($this->rounds === []) {
            $this->begin();
        }
        $this->go(PHP_INT_MAX);
        $this->law();
    }

    /** @return list<string> */
    public function broken(): array
    {
        return $this->wrong;
    }

    private function begin(): void
    {
        $rows = array_map(fn (array $t) => $t['rows'], $this->takes);
        $plainPlan = ['rule' => $this->rule, 'codes' => $this->codes];
        $this->rounds[] = [
            'lane' => new MemoryLane,
            'takes' => $this->takes,
            'plain' => new PlainRound($rows),
            'pass' => ++$this->passes,
            'kind' => 'first',
            'plan' => $this->plan()->toJson(),
            'plainPlan' => $plainPlan,
            'open' => true,
            'without' => $this->without(),
        ];
        $round = &$this->rounds[array_key_last($this->rounds)];
        $round['crew'] = null;
        $round['plain']->first($plainPlan, $round['without']);
    }

    /** @return list<string> loads that are left out of a pass: none as a rule */
    private function without(): array
    {
        return $this->random->getInt(0, 3) === 0 ? [self::LOADS[$this->random->getInt(1, 3)]] : [];
    }

    /** What is due goes again, and what was not asked for before. */
    private function retry(): void
    {
        $round = &$this->rounds[array_key_last($this->rounds)];
        $round['pass'] = ++$this->passes;
        $round['kind'] = 'retry';
        $round['plan'] = $this->plan()->toJson();
        $round['plainPlan'] = ['rule' => $this->rule, 'codes' => $this->codes];
        $round['without'] = $this->without();
        $round['open'] = true;
        $round['crew'] = null;
        $round['lane']->due = $this->due($round);
        $byLoops = $round['plain']->due($round['plainPlan']);
        foreach (self::LOADS as $load => $name) {
            if ($round['lane']->due[$load] !== $byLoops[$name]) {
                $this->wrong[] = "due of $name: ".json_encode($round['lane']->due[$load]).', by loops '.json_encode($byLoops[$name]);
            }
        }
        $round['plain']->work($round['plainPlan'], $round['without']);
    }

    /**
     * @param  array<string, mixed>  $round
     * @return array<int, list<int>> load → rows that may fare otherwise by the plan of now
     */
    private function due(array $round): array
    {
        $now = PlanVersion::fromJson($round['plan']);
        $used = ['country' => ['countries']];
        $due = [];
        foreach (self::LOADS as $load => $name) {
            $due[$load] = array_keys($round['lane']->corrected[$load] ?? []);
            foreach ($round['lane']->rows($load, Outcome::Rejected, Outcome::Held) as $row) {
                $line = $round['lane']->lines[$load][$row];
                $changes = new Due(PlanVersion::fromJson($this->plans[$line['pass']]), $used, $now, $used, $load);
                [$cause, $key] = [$line['cause'], (string) $line['cause']->value];
                $parent = $cause->parentEntity === null
                    ? null
                    : $round['lane']->states($cause->parentEntity, (string) $cause->parentSpace, [$key])[$key] ?? null;
                $byParent = $cause->parentEntity !== null && Due::byParent($cause->code, $parent);
                $isHeld = $line['outcome'] === Outcome::Held;
                if ($byParent || (! $isHeld && $changes->byRule($cause->stage, $cause->code, $cause->field, $cause->value))) {
                    $due[$load][] = $row;
                }
            }
            $due[$load] = array_values(array_unique($due[$load]));
            sort($due[$load]);
        }

        return $due;
    }

    /** A person puts another value over a cell of a row that was left out. */
    private function correct(): void
    {
        $round = &$this->rounds[array_key_last($this->rounds)];
        $load = $this->random->getInt(1, 3);
        $name = self::LOADS[$load];
        $rows = $round['lane']->rows($load, Outcome::Rejected, Outcome::Held, Outcome::Waived);
        if ($rows === []) {
            return;
        }
        $row = $rows[$this->random->getInt(0, count($rows) - 1)];
        $column = ['name', 'country', 'bill_to', 'owner'][$this->random->getInt(0, 3)];
        $value = ['name' => 'Flo', 'country' => 'N', 'bill_to' => '', 'owner' => 'K2'][$column];
        $round['takes'][$name]['rows'][$row][$column] = $value;
        $round['lane']->corrected[$load][$row] = true;
        $round['plain']->correct($name, $row, $column, $value);
    }

    /** Rows that failed alike are left behind, or that is taken back. */
    private function waive(bool $left): void
    {
        $round = &$this->rounds[array_key_last($this->rounds)];
        $may = $round['plain']->failures($left ? 'rejected' : 'waived');
        if ($may === []) {
            return;
        }
        [$name, $field] = $may[$this->random->getInt(0, count($may) - 1)];
        $load = (int) array_search($name, self::LOADS, true);
        $rows = $left ? $round['plain']->waive($name, $field) : $round['plain']->takeBack($name, $field);
        foreach ($rows as $row) {
            $line = &$round['lane']->lines[$load][$row];
            if ($line['outcome'] !== ($left ? Outcome::Rejected : Outcome::Waived)) {
                $this->wrong[] = "row $row of load $load is {$line['outcome']->value}";
            }
            $line['outcome'] = $left ? Outcome::Waived : Outcome::Rejected;
            $decided = "$load $line[key] {$line['cause']->decided()}";
            if ($left) {
                $round['lane']->waived[$decided] = true;
            } else {
                unset($round['lane']->waived[$decided]);
            }
        }
    }

    /** A worker ends, or the target goes away, at some moment of the steps that follow. */
    private function broken_off(\RuntimeException $how): void
    {
        $at = $this->random->getInt(1, 12);
        $fault = function () use (&$at, $how) {
            if (--$at === 0) {
                $this->kills++;
                throw $how;
            }
        };
        $round = $this->rounds[array_key_last($this->rounds)];
        $this->target->fault = $round['lane']->fault = $fault;
        $this->go(6);
        $this->target->fault = $round['lane']->fault = null;
    }

    /** Some workers go on with the pass for some stretches, in any order. */
    private function go(int $stretches): void
    {
        $round = &$this->rounds[array_key_last($this->rounds)];
        if (! $round['open']) {
            return;
        }
        $this->plans[$round['pass']] = $round['plan'];
        $round['crew'] ??= $this->crew($round);
        try {
            $isOver = $round['crew']->go($stretches);
        } catch (\LogicException $e) {
            $this->wrong[] = $e->getMessage();
            $isOver = false;
        }
        if ($isOver) {
            $round['open'] = false;
            $this->compare($round);
        }
    }

    /** @param  array<string, mixed>  $round */
    private function crew(array $round): Crew
    {
        return new Crew(
            PlanVersion::fromJson($round['plan']),
            $round['lane'],
            $this->target,
            $round['takes'],
            $round['pass'],
            $round['kind'] === 'retry',
            $round['without'],
            $this->random,
        );
    }

    private function plan(): PlanVersion
    {
        $text = fn (string $name, bool $required, ?string $refers = null) => new Field($name, new TextType(40), $required, false, $refers);
        $id = new Field('id', new TextType(20), false, true);
        $party = new Entity('party', 'id', [$id, $text('name', true), $text('country', true), $text('bill_to', false, 'party')]);
        $boat = new Entity('boat', 'id', [$id, $text('name', true), $text('owner', true, 'party')]);
        $trim = KeyNormalisation::Trim;
        $of = fn (int $n, Entity $e, array $rules, WritePolicy $policy = WritePolicy::Create) => new LoadDefinition(
            $n, self::LOADS[$n], $e, 'S', 'S', ['no'], $trim, $rules, policy: $policy,
        );

        return new PlanVersion(
            [
                $of(1, $party, ['name' => $this->rule, 'country' => "code('countries', country)", 'bill_to' => 'parent(bill_to)']),
                $of(self::READS, $party, ['name' => $this->rule], WritePolicy::Update),
                $of(2, $boat, ['name' => $this->rule, 'owner' => 'parent(owner)']),
            ],
            ['countries' => new CodeCrosswalk('countries', $this->codes)],
            [],
            [new Reference('party', 'bill_to', 'party', false), new Reference('boat', 'owner', 'party', true)],
        );
    }

    /** A delivery: rows inserted, moved and gone, columns in another order, keys repeated or blank. */
    private function newTake(string $load): void
    {
        $any = fn (array $of) => $of[$this->random->getInt(0, count($of) - 1)];
        $rows = [];
        for ($n = $this->random->getInt(0, 11), $i = 1; $i <= $n; $i++) {
            $rows[] = [
                'no' => $any(['', 'K1', 'K2', 'K3', 'K4', 'K5', 'K6', 'K7', 'K8', ' K8 ', "K$i", "K$i"]),
                'name' => $any(['', 'Ann', ' Bo ', 'Cy', 'Di', 'Eve']),
                'country' => $any(['N', 'N', 'S', 'D', '', 'X']),
                'bill_to' => $any(['', '', 'K1', 'K2', 'K9']),
                'owner' => $any(['K1', 'K2', 'K3', 'K4', 'K9', '']),
            ];
        }
        $headers = $this->random->shuffleArray(['no', 'name', 'country', 'bill_to', 'owner']);
        $this->takes[$load] = ['headers' => $headers, 'rows' => $rows === [] ? [] : array_combine(range(1, count($rows)), $rows)];
    }

    /** The law, at any moment: no row twice, no row of another take, every key at most once among rows with a record. */
    private function law(): void
    {
        foreach ($this->rounds as $n => $round) {
            foreach (self::LOADS as $load => $name) {
                $lines = $round['lane']->lines[$load] ?? [];
                if (array_diff_key($lines, $round['takes'][$name]['rows']) !== []) {
                    $this->wrong[] = "round $n has rows of $name its take does not have";
                }
                $keys = array_column(array_filter($lines, fn (array $l) => $l['target'] !== null), 'key');
                if (count($keys) !== count(array_unique($keys))) {
                    $this->wrong[] = "round $n: a legacy key of $name stands twice";
                }
            }
        }
        $made = array_sum(array_map(
            fn (array $r) => count(array_filter(
                array_merge($r['lane']->lines[1] ?? [], $r['lane']->lines[2] ?? []),
                fn (array $l) => $l['target'] !== null,
            )),
            $this->rounds,
        ));
        $there = count($this->target->records['party'] ?? []) + count($this->target->records['boat'] ?? []);
        $unheard = array_sum(array_map(fn (array $r) => $r['open'] ? 12 : 0, $this->rounds));
        if ($there < $made || $there > $made + $unheard) {
            $this->wrong[] = "$there records, $made rows that have one";
        }
    }

    /** @param  array<string, mixed>  $round that is finished */
    private function compare(array $round): void
    {
        if ($round['lane']->ready(1, 'bill_to', 0, 1) !== []) {
            $this->wrong[] = 'a reference waits, and its parent is there';
        }
        foreach (self::LOADS as $load => $name) {
            $lines = $round['lane']->lines[$load] ?? [];
            ksort($lines);
            $outcomes = array_map(fn (array $l) => $l['outcome']->value, $lines);
            if ($outcomes !== $round['plain']->outcomes[$name]) {
                $this->wrong[] = "$name: ".json_encode($outcomes).' and by loops '.json_encode($round['plain']->outcomes[$name]);
            }
            foreach ($load === self::READS ? [] : $lines as $row => $line) {
                $record = $line['target'] === null ? null : $this->record($round, $name, $line['target']);
                $expected = $this->expected($round, $name, $row);
                if ($record !== $expected) {
                    $this->wrong[] = "$name row $row is ".json_encode($record).', by loops '.json_encode($expected);
                }
            }
        }
    }

    /** @return array<string, string|null>|null as the target has it, references as legacy keys */
    private function record(array $round, string $entity, string $key): ?array
    {
        $record = array_diff_key($this->target->records[$entity][$key] ?? [], ['id' => 1]);
        $keys = array_column(array_filter($round['lane']->lines[1] ?? [], fn (array $l) => $l['target'] !== null), 'key', 'target');
        foreach (['bill_to', 'owner'] as $field) {
            if (($record[$field] ?? null) !== null) {
                $record[$field] = $keys[$record[$field]] ?? 'a record of another round';
            }
        }
        ksort($record);

        return $record === [] ? null : $record;
    }

    /** @return array<string, string|null>|null */
    private function expected(array $round, string $name, int $row): ?array
    {
        $record = $round['plain']->records[$name][$row] ?? null;
        if ($record !== null && isset($record['bill_to'])) {
            // Set only where the party billed to has a record itself.
            $stands = array_filter($round['lane']->lines[1], fn (array $l) => $l['target'] !== null && $l['key'] === $record['bill_to']);
            $record['bill_to'] = $stands === [] ? null : $record['bill_to'];
        }
        if ($record !== null) {
            ksort($record);
        }

        return $record;
    }

    private function others(?int $round): string
    {
        $others = array_filter($this->rounds, fn (int $n) => $n !== $round && $n < (int) $round, ARRAY_FILTER_USE_KEY);

        return md5(serialize(array_map(fn (array $r) => [$r['lane']->lines, $r['lane']->open], $others)));
    }
}
