<?php

namespace Tests\Support;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Targets\Entity;

/**
 * What every target must do, whatever it is made of. Those who use it hand out a harbour (code unique, name) and a berth (code,
 * harbour a reference to one, note), both empty.
 */
trait WhatATargetMustDo
{
    abstract protected function port(): Target;

    abstract protected function records(): TargetRecords;

    abstract protected function harbour(): Entity;

    abstract protected function berth(): Entity;

    private static function mark(): Mark
    {
        return new Mark('suite', 7, 'rehearsal-1', '2026-01-31 23:59:59');
    }

    private function stretch(int $after, int $to, int $pass = 1): Stretch
    {
        return new Stretch('suite', $pass, 1, $after, $to);
    }

    /**
     * @param  array<int, array<string, string|null>>  $rows  row number → values
     * @return list<Answer>
     */
    private function create(array $rows, int $after = 0, ?Entity $entity = null): array
    {
        $orders = array_map(
            fn (int $row, array $values) => new Order($row, "K$row", Verb::Create, null, $values),
            array_keys($rows),
            $rows,
        );

        $stretch = $this->stretch($after, (int) array_key_last($rows));

        return $this->write($entity ?? $this->harbour(), $orders, $stretch);
    }

    /**
     * @param  list<Order>  $orders
     * @return list<Answer>
     */
    private function write(Entity $entity, array $orders, Stretch $stretch, ?Mark $mark = null): array
    {
        $writing = $this->port()->begin($entity, $stretch, $mark ?? self::mark());
        $answers = $writing->do($orders);
        $writing->keep();

        return $answers;
    }

    /**
     * @param  list<Answer>  $answers
     * @return list<string> row and what was done
     */
    private static function done(array $answers): array
    {
        return array_map(fn (Answer $a) => "$a->row {$a->done->name}", $answers);
    }

    /** @return array<string, string|null> */
    private static function h(string $code, ?string $name = null): array
    {
        return ['code' => $code, 'name' => $name ?? "Harbour $code"];
    }

    public function test_it_answers_every_order_in_its_order_and_bad_ones_stop_none(): void
    {
        $answers = $this->create([
            7 => self::h('AA'),
            9 => self::h('BB'),
            12 => ['code' => 'CC', 'name' => null],
            13 => self::h('aa'),
            20 => self::h('DD'),
        ]);
        self::assertSame(['7 Created', '9 Created', '12 Refused', '13 Refused', '20 Created'], self::done($answers));
        self::assertSame(3, $this->records()->count($this->harbour()->name));
        self::assertSame(['name'], $answers[2]->said?->fields);
        $keys = [$answers[0]->targetKey, $answers[1]->targetKey, $answers[4]->targetKey];
        self::assertCount(3, array_unique(array_filter($keys)));
        $kept = $this->records()->byKeys($this->harbour(), array_map(strval(...), $keys));
        self::assertSame('Harbour BB', $kept[$keys[1]]['name']);
    }

    public function test_it_says_whose_value_is_taken(): void
    {
        $this->create([1 => self::h('AA')]);
        $answers = $this->create([2 => self::h('AA'), 3 => self::h('BB')], 1);
        self::assertSame(['2 Refused', '3 Created'], self::done($answers));
        self::assertSame(['taken', ['code']], [$answers[0]->said?->code, $answers[0]->said?->fields]);
    }

    public function test_it_changes_only_what_differs_and_says_what_was_there(): void
    {
        [$a] = $this->create([1 => self::h('AA', 'Old name')]);
        $key = (string) $a->targetKey;
        $update = fn (int $row, array $values, ?string $of = null) => $this->write(
            $this->harbour(),
            [new Order($row, 'K', Verb::Update, $of ?? $key, $values)],
            $this->stretch($row, $row),
        )[0];
        $same = $update(2, ['code' => 'AA', 'name' => null]);
        self::assertSame([Done::Same, $key], [$same->done, $same->targetKey], 'a rule that gives nothing leaves what is there');
        $changed = $update(3, ['code' => 'AA', 'name' => 'New name']);
        self::assertSame([Done::Changed, $key], [$changed->done, $changed->targetKey]);
        self::assertSame(['AA', 'Old name'], [$changed->before['code'] ?? null, $changed->before['name'] ?? null]);
        self::assertSame('New name', $this->records()->byKeys($this->harbour(), [$key])[$key]['name']);
        self::assertSame(Done::Gone, $update(4, self::h('ZZ'), '999999')->done);
        self::assertSame(1, $this->records()->count($this->harbour()->name));
    }

    /** A row that takes a record over leaves nothing of what was there. */
    public function test_a_record_that_is_replaced_is_as_if_it_were_new(): void
    {
        [$a] = $this->create([1 => self::h('AA', 'Old name')]);
        [$berth] = $this->create([2 => ['code' => 'Q1', 'harbour' => $a->targetKey, 'note' => 'by the stairs']], 1, $this->berth());
        $key = (string) $berth->targetKey;
        $values = ['code' => 'Q2', 'harbour' => $a->targetKey];
        [$changed] = $this->write($this->berth(), [new Order(9, 'K', Verb::Replace, $key, $values)], $this->stretch(8, 9));
        self::assertSame([Done::Changed, 'by the stairs'], [$changed->done, $changed->before['note'] ?? null]);
        $kept = $this->records()->byKeys($this->berth(), [$key])[$key];
        self::assertSame(['Q2', null], [$kept['code'], $kept['note']]);
    }

    public function test_it_remembers_a_stretch_and_writes_it_once(): void
    {
        $answers = $this->create([1 => self::h('AA'), 2 => ['code' => 'BB', 'name' => null]]);
        $receipt = $this->port()->recall($this->stretch(0, 0));
        self::assertNotNull($receipt);
        self::assertSame(2, $receipt->to);
        self::assertEquals($answers, $receipt->answers);
        self::assertNull($this->port()->recall($this->stretch(2, 2)));
        try {
            $this->create([1 => self::h('CC'), 2 => self::h('DD')]);
            self::fail('A stretch is written once.');
        } catch (TargetUnavailable) {
            self::assertSame(1, $this->records()->count($this->harbour()->name), 'nothing of it is written');
        }
        $this->port()->forget('suite', 1);
        self::assertNull($this->port()->recall($this->stretch(0, 0)));
    }

    public function test_another_pass_forgets_nothing_of_this_one(): void
    {
        $this->create([1 => self::h('AA')]);
        $this->port()->forget('suite', 11);
        $this->port()->forget('suites', 1);
        self::assertNotNull($this->port()->recall($this->stretch(0, 0)));
        self::assertNull($this->port()->recall($this->stretch(0, 0, 11)));
    }

    public function test_references_are_kept_and_set(): void
    {
        [$a, $b] = $this->create([1 => self::h('AA'), 2 => self::h('BB')]);
        [$one, $none] = $this->create([
            3 => ['code' => 'Q1', 'harbour' => $a->targetKey],
            4 => ['code' => 'Q2', 'harbour' => '999999'],
        ], 2, $this->berth());
        self::assertSame([Done::Created, Done::Refused], [$one->done, $none->done]);
        $pairs = [[(string) $one->targetKey, (string) $b->targetKey]];
        $this->port()->setReference($this->berth(), 'harbour', $pairs);
        $this->port()->setReference($this->berth(), 'harbour', $pairs);
        $this->port()->setReference($this->berth(), 'harbour', []);
        $kept = $this->records()->byKeys($this->berth(), [(string) $one->targetKey])[$one->targetKey];
        self::assertSame($b->targetKey, $kept['harbour']);
    }

    public function test_its_records_are_paged_without_a_gap(): void
    {
        $rows = [];
        for ($i = 1; $i <= 25; $i++) {
            $rows[$i] = self::h(sprintf('H%02d', $i));
        }
        $answers = $this->create($rows);
        $seen = [];
        $next = fn (?string $key) => $this->records()->after($this->harbour(), ['name'], $key, 10);
        for ($page = $next(null); $page !== []; $page = $next((string) array_key_last($page))) {
            self::assertLessThanOrEqual(10, count($page));
            self::assertSame(['name'], array_keys($page[array_key_first($page)]));
            $seen = [...$seen, ...array_keys($page)];
        }
        self::assertSame(array_map(fn (Answer $a) => (string) $a->targetKey, $answers), array_map(strval(...), $seen));
        self::assertSame([], $this->records()->byKeys($this->harbour(), []));
    }

    public function test_a_lane_leaves_its_mark_with_its_first_records(): void
    {
        self::assertSame([], $this->port()->marks());
        $this->create([1 => self::h('AA')]);
        $this->create([2 => self::h('BB')], 1);
        self::assertEquals([self::mark()], $this->port()->marks());
        $other = new Mark('suite', 8, 'rehearsal-2', '2026-02-01 09:00:00');
        $this->write($this->harbour(), [], $this->stretch(2, 2, 9), $other);
        self::assertEquals([self::mark(), $other], $this->port()->marks());
    }

    public function test_nothing_is_ordered(): void
    {
        self::assertSame([], $this->write($this->harbour(), [], $this->stretch(0, 5)));
        self::assertSame([5, []], [($r = $this->port()->recall($this->stretch(0, 0)))?->to, $r?->answers]);
    }

    public function test_records_are_removed_and_put_back_as_they_were(): void
    {
        $this->create([1 => self::h('A', 'One'), 2 => self::h('B', 'Two'), 3 => self::h('C', 'Three')]);
        $keys = array_map(strval(...), array_keys($this->records()->after($this->harbour(), ['code'], null, 10)));
        // To the letter, and null is null.
        $restored = $this->write($this->harbour(), [
            new Order(1, 'K1', Verb::Restore, $keys[0], ['code' => 'Z', 'name' => 'Other']),
            new Order(2, 'K2', Verb::Restore, $keys[1], ['code' => 'B', 'name' => 'Two']),
        ], $this->stretch(10, 12));
        self::assertSame(['1 Changed', '2 Same'], self::done($restored));
        $is = $this->records()->byKeys($this->harbour(), $keys);
        self::assertSame(['Z', 'Other'], [$is[$keys[0]]['code'], $is[$keys[0]]['name']]);
        $berth = (string) $this->create([1 => ['code' => 'X', 'harbour' => $keys[2], 'note' => 'n']], 40, $this->berth())[0]->targetKey;
        $this->write($this->berth(), [new Order(1, 'K1', Verb::Restore, $berth, ['note' => null])], $this->stretch(50, 51));
        self::assertNull($this->records()->byKeys($this->berth(), [$berth])[$berth]['note']);
        $removed = fn (int $after) => self::done($this->write($this->harbour(), array_map(
            fn (int $n) => new Order($n, "K$n", Verb::Remove, $keys[$n - 1], []), [1, 2],
        ), $this->stretch($after, $after + 2)));
        self::assertSame(['1 Removed', '2 Removed'], $removed(20));
        self::assertSame(['1 Gone', '2 Gone'], $removed(30));
        self::assertSame([$keys[2]], array_map(strval(...), array_keys($this->records()->after($this->harbour(), ['code'], null, 10))));
        $this->port()->unmark('suite', 7);
        self::assertSame([], $this->port()->marks());
    }
}
