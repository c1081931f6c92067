<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\BackOut;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Claims;
use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Holder;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\Undoing;
use Baggage\Core\Loading\Waivers;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\SentHash;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\TestCase;
use Tests\Support\MemoryTarget;

/** The life of a row in one batch, with crosswalk, match index and target in memory. */
final class BatchTest extends TestCase implements CrosswalkStore, MatchIndex, Waivers
{
    /** @var array<string, KeyState> "entity space key" → state */
    private array $known = [];

    /** @var array<string, string> */
    private array $hits = [];

    /** @var array<array-key, Holder> */
    private array $holders = [];

    public function states(string $entity, string $space, array $keys): array
    {
        $found = [];
        foreach ($keys as $key) {
            if (isset($this->known["$entity $space $key"])) {
                $found[$key] = $this->known["$entity $space $key"];
            }
        }

        return $found;
    }

    public function holders(string $entity, array $keys): array
    {
        return array_intersect_key($this->holders, array_flip($keys));
    }

    public function find(string $entity, array $keys): array
    {
        return array_intersect_key($this->hits, array_flip($keys));
    }

    private static function vessel(): Entity
    {
        return new Entity(
            'vessel',
            'id',
            [
                new Field('name', new TextType(10), true),
                new Field('reg', new TextType(10)),
                new Field('owner', new TextType(20), true, false, 'party'),
                new Field('agreement', new TextType(20), false, false, 'agreement'),
            ],
            [['reg']],
        );
    }

    /** @param  array<string, string>  $on */
    private static function rule(array $on): MatchRule
    {
        return MatchRule::fromArray(['name' => implode(' + ', array_keys($on)), 'on' => $on]);
    }

    /**
     * @param  list<list<string>>  $rows
     * @param  array<string, string>|list<array<string, string>>  $match
     * @return list<string> row outcome, cause code
     */
    private function run_(
        array $rows,
        array $match = [],
        WritePolicy $policy = WritePolicy::Create,
        ?string $scope = null,
        bool $pad = false,
        ?Receipt $receipt = null,
    ): array {
        $entity = self::vessel();
        $load = new LoadDefinition(
            1,
            'Vessels',
            $entity,
            'BB',
            'BB',
            ['no'],
            KeyNormalisation::Number,
            ['name' => 'trim(name)', 'reg' => 'reg', 'owner' => 'parent(owner)', 'agreement' => 'parent(agr)'],
            $scope,
            'not ours',
            $policy,
            array_map(self::rule(...), $match === [] || array_is_list($match) ? $match : [$match]),
            $pad,
        );
        $processor = $this->processor($load);
        $stretch = new Stretch('x', 1, 1, count($this->target->receipts), count($rows), true);
        $journeys = $processor->prepare(array_combine(range(1, count($rows)), $rows), true);
        $this->last = $processor->finish($journeys, $stretch, $receipt);

        return array_map(fn (Journey $j) => rtrim($j->outcome?->value.' '.$j->cause?->code), $this->last);
    }

    public function test_a_load_that_changes_records_of_others_puts_back_its_own_fields_also_where_the_answer_was_lost(): void
    {
        $load = new LoadDefinition(
            1, 'Names', self::vessel(), 'BB', 'BB', ['no'], KeyNormalisation::Number, ['name' => 'trim(name)'], policy: WritePolicy::Update,
        );
        $records = self::createStub(TargetRecords::class);
        $records->method('byKeys')->willReturn(['11' => ['name' => 'Eve', 'reg' => null]]);
        $mark = new Mark('x', 1, 'r', '2026-01-01 00:00:00');
        $back = new BackOut($load, [], self::createStub(Target::class), $records, $mark, fn () => []);
        $undoing = new Undoing(1, 'K5', null, '11', ['name' => 'Eve', 'reg' => 'B 9'], null);
        $back->undo([$undoing], new Stretch('x', 2, 1, 0, 1), new Receipt(1, [new Answer(1, Done::Changed, '11')]));
        self::assertNull($undoing->left);
    }

    private function processor(LoadDefinition $load): BatchProcessor
    {
        $mapper = Mapper::of($load, Columns::fromHeaders(['no', 'name', 'reg', 'owner', 'agr']), new Context([], 'BB'));
        $parents = new ParentResolver($load->entity, $this, ['party' => ['BB' => KeyNormalisation::Number]], ['agreement']);
        $matcher = new Matcher($load, $this, $this, [1 => 'Vessels', 2 => 'Hulls']);

        return new BatchProcessor(
            $load->entity,
            $load->policy,
            $mapper,
            $parents,
            $matcher,
            new Claims($load, $matcher),
            $this->target,
            new Mark('x', 1, 'r', '2026-01-01 00:00:00'),
            $this,
        );
    }

    /** @var list<array{string, string}> legacy key and what was waived of it, as Cause::decided() */
    private array $waived = [];

    public function covering(array $rejected): array
    {
        return array_values(array_map(
            fn (Journey $j) => $j->row,
            array_filter($rejected, fn (Journey $j) => in_array([$j->legacyKey, (string) $j->cause?->decided()], $this->waived, true)),
        ));
    }

    /** @var list<Journey> */
    private array $last = [];

    private MemoryTarget $target;

    protected function setUp(): void
    {
        $this->target = new MemoryTarget;
        $vessel = ['id' => '77', 'name' => 'x', 'reg' => null, 'owner' => '107', 'agreement' => null];
        $this->target->records = ['party' => ['107' => []], 'vessel' => ['77' => $vessel]];
        $this->known['party BB 7'] = new KeyState(Outcome::Loaded, '107', 2, 1);
        $this->known['party BB 8'] = new KeyState(Outcome::Rejected, null, 2, 2, 55);
        $this->known['party BB 9'] = new KeyState(Outcome::Held, null, 2, 3, 56);
        $this->known['agreement BB A1'] = new KeyState(Outcome::Pending, null, 3, 1);
    }

    public function test_a_row_rejected_after_it_was_matched_keeps_no_record(): void
    {
        foreach (['Tern' => '8', 'Gull' => '9'] as $name => $target) {
            $this->hits[(string) self::rule(['name' => 'exact'])->key(['name' => $name])] = $target;
            $this->target->records['vessel'][$target] = ['id' => $target, 'name' => $name, 'reg' => null, 'owner' => '107'];
        }
        $rows = [['1', 'Tern', 'R1', '7', ''], ['2', 'Gull', 'R1', '7', '']];
        self::assertSame(['updated', 'rejected taken'], $this->run_($rows, ['name' => 'exact'], WritePolicy::Update));
        self::assertNull($this->last[1]->targetKey);
    }

    public function test_a_parent_left_behind_on_purpose_rejects_its_children(): void
    {
        // DESIGN section 2, SEMANTICS 13
        $this->known['party BB 20'] = new KeyState(Outcome::Waived, null, 2, 20, 60, 'Text too long: 41 of 40 characters');
        $this->known['party BB 21'] = new KeyState(Outcome::Excluded, null, 2, 21, 61, 'Struck off the register');
        $this->known['agreement BB A2'] = new KeyState(Outcome::Excluded, null, 3, 2, 62, 'Cancelled');
        self::assertSame(
            ['rejected parent_left', 'rejected parent_left', 'loaded'],
            $this->run_([['1', 'Ann', 'r1', '20', ''], ['2', 'Bo', 'r2', '21', ''], ['3', 'Cy', 'r3', '7', 'A2']]),
            'a reference that is set later waits',
        );
        self::assertSame('Party was left behind: excluded, Struck off the register', $this->last[1]->cause?->message);
        self::assertSame(['agreement' => 'A2'], array_map(fn ($l) => $l['key'], $this->last[2]->links));
    }

    public function test_a_row_that_is_held_and_orphaned_is_rejected(): void
    {
        // DESIGN section 2: held means fine by itself. The owner 8 is rejected, the owner 9 held; nobody has the agreement A9.
        self::assertSame(
            ['rejected orphan', 'rejected orphan', 'held parent_rejected'],
            $this->run_([['1', 'Ann', 'r1', '8', 'A9'], ['2', 'Bo', 'r2', '9', 'A9'], ['3', 'Cy', 'r3', '8', 'A1']]),
        );
        self::assertSame(['A9', 'agreement'], [$this->last[0]->cause?->value, $this->last[0]->cause?->field]);
    }

    public function test_parents_found_orphaned_and_waiting(): void
    {
        // DESIGN section 2: a key nobody carries rejects, a parent that is not loaded holds, and the cause behind it is kept.
        self::assertSame(
            [
                'loaded', 'rejected orphan', 'held parent_rejected', 'held parent_held', 'rejected required', 'rejected required',
                'rejected parent_key_too_long',
            ],
            $this->run_([
                ['1', 'Skarv', '', '007', ''],
                ['2', 'Skarv', '', '6', ''],
                ['3', 'Skarv', '', '8', ''],
                ['4', 'Skarv', '', '9', ''],
                ['5', '  ', '', '7', ''],
                ['6', "\u{A0}\u{3000}", '', '7', ''],
                ['7', 'Skarv', '', str_repeat('9', 191), ''],
            ]),
        );
        self::assertSame('107', $this->last[0]->values['owner']);
        self::assertSame([55, 56], [$this->last[2]->rootCause, $this->last[3]->rootCause]);
        self::assertSame('8', $this->last[2]->cause?->value);
    }

    public function test_a_deferred_reference_waits_as_a_link_and_its_orphan_is_rejected(): void
    {
        self::assertSame(
            ['loaded', 'rejected orphan'],
            $this->run_([['1', 'a', '', '7', 'A1'], ['2', 'b', '', '7', 'A2']]),
        );
        self::assertSame(
            ['agreement' => ['entity' => 'agreement', 'space' => 'BB', 'key' => 'A1', 'isSet' => false]],
            $this->last[0]->links,
        );
        self::assertNull($this->last[0]->values['agreement']);
    }

    /** What a killed worker wrote without its reference is not taken for having it because the parent came meanwhile. */
    public function test_a_reference_of_a_record_that_is_there_already_is_set_later(): void
    {
        $this->known['agreement BB A1'] = new KeyState(Outcome::Loaded, '501', 3, 1);
        $this->run_([['1', 'a', '', '7', 'A1']]);
        self::assertSame(['501', true], [$this->last[0]->values['agreement'], $this->last[0]->links['agreement']['isSet']]);
        $hash = SentHash::of($this->last[0]);
        $this->run_([['1', 'a', '', '7', 'A1']], receipt: new Receipt(1, [new Answer(1, Done::Created, '9')]));
        self::assertSame(['9', false], [$this->last[0]->targetKey, $this->last[0]->links['agreement']['isSet']]);
        self::assertSame($hash, SentHash::of($this->last[0]));
    }

    public function test_parents_are_found_however_little_is_remembered(): void
    {
        $entity = new Entity('vessel', 'id', [new Field('owner', new TextType(20), true, false, 'party')]);
        foreach (range(1, 9) as $n) {
            $this->known["party BB P$n"] = new KeyState(Outcome::Loaded, "10$n", 2, $n);
        }
        $resolver = new ParentResolver($entity, $this, [], [], 2);
        foreach ([[1, 2, 3], [3, 4, 1], [1, 9, 4], [5, 6, 9]] as $batch) {
            $journeys = array_map(function (int $n) {
                $journey = new Journey($n);
                $journey->parents = ['owner' => new ParentKey('BB', ["P$n"])];

                return $journey;
            }, $batch);
            $resolver->resolve($journeys);
            self::assertSame(
                array_map(fn ($n) => "10$n", $batch),
                array_map(fn ($j) => $j->values['owner'] ?? null, $journeys),
            );
        }
    }

    public function test_one_legacy_key_one_record(): void
    {
        // 01 and 1 are one key under this load's normalisation; an earlier row has the key 5.
        $this->known['vessel BB 5'] = new KeyState(Outcome::Loaded, '77', 1, 0);
        self::assertSame(
            ['loaded', 'rejected duplicate_key', 'rejected no_legacy_key', 'rejected duplicate_key'],
            $this->run_([['01', 'a', '', '7', ''], ['1', 'b', '', '7', ''], [' ', 'c', '', '7', ''], ['5', 'd', '', '7', '']]),
        );
    }

    /** SEMANTICS of the first: a refused row leaves key, match key and unique value to the next. */
    public function test_a_refused_row_leaves_everything_to_the_next(): void
    {
        $tooLong = 'longer than ten characters';
        self::assertSame(
            ['rejected too_long', 'loaded', 'rejected duplicate_key', 'rejected orphan', 'merged', 'loaded', 'rejected taken'],
            $this->run_([
                ['1', $tooLong, 'r1', '7', ''],
                ['1', 'Ann', 'r1', '7', ''],
                ['1', 'Bo', 'r2', '7', ''],
                ['2', 'Cy', 'r3', '6', ''],
                ['3', 'ANN', 'r4', '7', ''],
                ['4', 'Cy', 'r3', '7', ''],
                ['5', 'Di', 'R3', '7', ''],
            ], ['name' => 'letters']),
        );
        self::assertSame('The legacy key is already used by row 2', $this->last[2]->cause?->message);
        self::assertSame('Already taken by 4, row 6', $this->last[6]->cause?->message);
    }

    /** A repaired earlier row takes the record over from the row that stood in its stead, which waits again. */
    public function test_a_repaired_earlier_row_takes_the_record_over(): void
    {
        $this->known['vessel BB 5'] = new KeyState(Outcome::Loaded, '77', 1, 400);
        self::assertSame(['loaded'], $this->run_([['5', 'Ann', '', '7', '']]));
        self::assertSame(['77', Outcome::Loaded], [$this->last[0]->targetKey, $this->last[0]->takesOver]);
        self::assertSame('Ann', $this->target->records['vessel']['77']['name']);
        // One that stood by changing a record of others is followed by one that changes it.
        $this->known['vessel BB 5'] = new KeyState(Outcome::Updated, '77', 2, 1);
        self::assertSame(['updated'], $this->run_([['5', 'Bo', '', '7', '']], policy: WritePolicy::CreateOrUpdate));
        // One that was merged into another's record gives up its key alone.
        $this->known['vessel BB 5'] = new KeyState(Outcome::Merged, '77', 1, 300);
        self::assertSame(['loaded'], $this->run_([['5', 'Cy', '', '7', '']]));
        self::assertSame([[1, 300]], $this->last[0]->displaces);
        self::assertNotSame('77', $this->last[0]->targetKey);
        // Where the target refuses it, nothing is taken over.
        $this->known['vessel BB 5'] = new KeyState(Outcome::Loaded, '77', 1, 400);
        $this->target->records['vessel']['78'] = ['id' => '78', 'reg' => 'R1'] + $this->target->records['vessel']['77'];
        self::assertSame(['rejected taken'], $this->run_([['5', 'Di', 'r1', '7', '']]));
        self::assertSame([null, null], [$this->last[0]->takesOver, $this->last[0]->targetKey]);
        self::assertSame('Bo', $this->target->records['vessel']['77']['name']);
        self::assertSame('Already taken by record 78, which the target had before', $this->last[0]->cause?->message);
    }

    public function test_a_repaired_earlier_duplicate_takes_the_record_over(): void
    {
        $key = (string) self::rule(['name' => 'letters'])->key(['name' => 'Old']);
        $this->hits = [$key => '77'];
        $this->holders = ['77' => new Holder(2, 1, 'K9', Outcome::Loaded)];
        self::assertSame(
            ['loaded', 'merged'],
            $this->run_([['1', 'Old', '', '7', ''], ['2', 'OLD', '', '7', '']], ['name' => 'letters']),
        );
        self::assertSame(['77', '77'], array_map(fn (Journey $j) => $j->targetKey, $this->last));
        // The row that has its key is another record's: it would be left without anybody standing on it.
        $this->known['vessel BB 1'] = new KeyState(Outcome::Loaded, '78', 1, 400);
        self::assertSame(['rejected duplicate_key'], $this->run_([['1', 'Old', '', '7', '']], ['name' => 'letters']));
    }

    /** What may make no record takes none over either: a pass from the beginning would have found nothing there. */
    public function test_a_load_that_makes_no_records_takes_none_over(): void
    {
        $key = (string) self::rule(['name' => 'letters'])->key(['name' => 'Old']);
        [$this->hits, $this->holders] = [[$key => '77'], ['77' => new Holder(2, 1, 'K9', Outcome::Loaded)]];
        $was = $this->target->records['vessel']['77'];
        foreach ([WritePolicy::Match, WritePolicy::Update] as $policy) {
            self::assertSame(['merged'], $this->run_([['1', 'Old', 'R1', '7', '']], ['name' => 'letters'], $policy));
            $this->known['vessel BB 1'] = new KeyState(Outcome::Loaded, '77', 2, 1);
            self::assertSame(['rejected duplicate_key'], $this->run_([['1', 'Old', 'R1', '7', '']], ['name' => 'letters'], $policy));
            unset($this->known['vessel BB 1']);
        }
        self::assertSame($was, $this->target->records['vessel']['77']);
    }

    public function test_unique_values_within_the_batch(): void
    {
        self::assertSame(
            ['loaded', 'rejected taken', 'loaded', 'loaded'],
            $this->run_([
                ['1', 'a', 'SS 1', '7', ''],
                ['2', 'b', 'ss 1', '7', ''],
                ['3', 'c', '', '7', ''],
                ['4', 'd', '', '7', ''],
            ]),
        );
        self::assertSame('Already taken by 1, row 1', $this->last[1]->cause?->message);
    }

    public function test_duplicates_fold_into_the_earlier_record(): void
    {
        $key = (string) self::rule(['name' => 'letters'])->key(['name' => 'Old']);
        $this->hits = [$key => '77'];
        $this->holders = ['77' => new Holder(1, 0, 'K0', Outcome::Loaded)];
        self::assertSame(
            ['loaded', 'merged', 'merged'],
            $this->run_(
                [['1', 'Sea Pink', '', '7', ''], ['2', 'sea-pink', '', '7', ''], ['3', 'OLD', '', '7', '']],
                ['name' => 'letters'],
            ),
        );
        self::assertSame(['1', '1', '77'], array_map(fn ($j) => $j->targetKey, $this->last));
        $this->holders = [];
        self::assertSame(
            ['updated', 'rejected no_match'],
            $this->run_(
                [['1', 'Old', '', '7', ''], ['2', 'New', '', '7', '']],
                ['name' => 'letters'],
                WritePolicy::Update,
            ),
        );
    }

    public function test_ragged_rows_and_scope(): void
    {
        self::assertSame(
            ['rejected short_row', 'rejected long_row', 'excluded out_of_scope', 'loaded'],
            $this->run_(
                [['1', 'a', '', '7'], ['2', 'a', '', '7', '', ''], ['3', 'x', '', '7', ''], ['4', 'y', '', '7', '']],
                scope: "name != 'x'",
            ),
        );
        self::assertSame('not ours', $this->last[2]->cause?->message);
        self::assertSame(['loaded'], $this->run_([['1', 'a', '', '7']], pad: true));
    }

    public function test_a_definition_that_cannot_run_says_so(): void
    {
        $entity = new Entity('vessel', 'id', [new Field('name', new TextType(10), true)]);
        $columns = Columns::fromHeaders(['no']);
        foreach (
            [
                ['rules' => [], 'key' => ['no'], 'says' => '"name" is required and has no rule'],
                ['rules' => ['name' => 'nam'], 'key' => ['no'], 'says' => 'no column "nam"'],
                ['rules' => ['name' => 'no'], 'key' => ['nr'], 'says' => 'no column "nr" for the legacy key'],
                ['rules' => ['colour' => 'no'], 'key' => ['no'], 'says' => 'no field "colour"'],
            ] as $case
        ) {
            try {
                Mapper::of(
                    new LoadDefinition(1, 'L', $entity, 'BB', 'BB', $case['key'], KeyNormalisation::Trim, $case['rules']),
                    $columns,
                    new Context,
                );
                self::fail($case['says']);
            } catch (DefinitionError $e) {
                self::assertStringContainsString($case['says'], $e->getMessage());
            }
        }
    }

    /** SEMANTICS of clusters: the first hit of the rules a load lists decides, and nothing is chained over rules. */
    public function test_the_first_match_rule_that_hits_decides(): void
    {
        $rules = [['reg' => 'exact'], ['name' => 'letters']];
        $rows = [
            ['1', 'Tern', 'R1', '7', ''],
            ['2', 'Gull', 'R2', '7', ''],
            // Its registration is that of the second, its name that of the first.
            ['3', 'TERN', 'R2', '7', ''],
            ['4', 'Kite', 'R1', '7', ''],
            // The fourth was gathered for its registration; what it was called gathers nobody else.
            ['5', 'Kite', '', '7', ''],
        ];
        self::assertSame(['loaded', 'loaded', 'merged', 'merged', 'loaded'], $this->run_($rows, $rules));
        $keys = array_map(fn (Journey $j) => $j->targetKey, $this->last);
        self::assertSame([$keys[1], $keys[0]], [$keys[2], $keys[3]]);
        $by = fn (array $on, array $values) => (string) self::rule($on)->key($values);
        $this->hits = [
            $by(['name' => 'letters'], ['name' => 'Auk']) => '77',
            $by(['reg' => 'exact'], ['reg' => 'R9']) => '99',
        ];
        self::assertSame(['unchanged'], $this->run_([['6', 'Auk', 'R9', '7', '']], $rules, WritePolicy::Match));
        self::assertSame('99', $this->last[0]->targetKey);
    }
}
