<?php

namespace Tests\Core;

use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\CorrectionState;
use Baggage\Core\Rows\Laid;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\RowFollower;
use Baggage\Core\Rows\RowKey;
use Baggage\Core\Rows\Stage;
use PHPUnit\Framework\TestCase;

/** What names a row people decided about, and what their decisions come to in the next take. */
final class DecisionsTest extends TestCase
{
    /**
     * @param  array<string, RowKey>  $wanted
     * @param  list<list<string|null>>  $rows
     */
    private function follow(array $wanted, Columns $columns, array $rows): RowFollower
    {
        $follower = RowFollower::lookingFor($wanted, $columns);
        foreach ($rows as $i => $cells) {
            $follower->see($i + 1, hash('xxh3', (string) json_encode($cells)), $cells);
        }

        return $follower;
    }

    public function test_a_row_is_found_by_its_key_wherever_it_stands_and_in_whatever_column(): void
    {
        $key = RowKey::of(['No.'], ['0004', 'Dunn'], Columns::fromHeaders(['No.', 'Name']), 'h');
        $found = $this->follow(
            ['it' => $key, 'gone' => RowKey::of(['No.'], ['0009', 'x'], Columns::fromHeaders(['No.', 'Name']), 'h')],
            Columns::fromHeaders(['Name', 'No.']),
            [['New', '0000'], ['Cole', '0003'], ['Dunne', '0004'], ['4', '4']],
        );
        self::assertSame([3, null], [$found->row('it'), $found->row('gone')], 'keys are compared as read: 4 is not 0004');
        $twice = $this->follow(['it' => $key], Columns::fromHeaders(['No.', 'Name']), [['0004', 'a'], ['0004', 'b']]);
        self::assertNull($twice->row('it'));
        self::assertTrue($twice->isRepeated('it'));
        self::assertNull($this->follow(['it' => $key], Columns::fromHeaders(['Number', 'Name']), [['0004', 'Dunn']])->row('it'));
    }

    public function test_a_row_without_a_key_is_found_by_all_its_cells_and_its_place_among_equals(): void
    {
        $columns = Columns::fromHeaders(['No.', 'Name']);
        $hash = hash('xxh3', (string) json_encode(['', 'Dunn']));
        self::assertNull(RowKey::of(['No.'], ['', 'Dunn'], $columns, $hash)->columns, 'a blank key names nothing');
        $place = fn (int $n) => new RowKey(null, [], $hash, $n);
        $wanted = ['first' => $place(1), 'second' => $place(2), 'third' => $place(3)];
        $found = $this->follow($wanted, $columns, [['1', 'a'], ['', 'Dunn'], ['2', 'b'], ['', 'Dunn']]);
        self::assertSame([2, 4, null], [$found->row('first'), $found->row('second'), $found->row('third')]);
    }

    public function test_what_a_correction_comes_to(): void
    {
        self::assertSame(CorrectionState::Carried, CorrectionState::of(true, 'a', 'a', 'b'));
        self::assertSame(CorrectionState::Confirmed, CorrectionState::of(true, 'b', 'a', 'b'));
        self::assertSame(CorrectionState::Contradicted, CorrectionState::of(true, 'c', 'a', 'b'));
        self::assertSame(CorrectionState::Contradicted, CorrectionState::of(true, null, '', 'b'), 'no value is not a blank one');
        self::assertSame(CorrectionState::WithoutRow, CorrectionState::of(false, null, 'a', 'b'));
        $key = new RowKey(['No.', 'Year'], ['1', '98'], 'h');
        self::assertSame(['1', '1998'], $key->with('Year', '1998')?->values);
        self::assertNull($key->with('Name', 'x'));
    }

    public function test_a_correction_holds_while_the_source_says_what_it_was_made_for(): void
    {
        $laid = new Laid(1, 'b', 'B');
        self::assertSame(['a', 'B'], $laid->over(['a', 'b']));
        self::assertSame(['a', 'c'], $laid->over(['a', 'c']));
        self::assertSame(['a', null, 'C'], (new Laid(2, null, 'C'))->over(['a']), 'a cell the row did not have');
        $whole = new Laid(null, '["1","Smith"," Ann"]', '["1","Smith, Ann"]');
        self::assertSame(['1', 'Smith, Ann'], $whole->over(['1', 'Smith', ' Ann']));
        self::assertSame(['1', 'Smith', ' Bo'], $whole->over(['1', 'Smith', ' Bo']));
    }

    public function test_of_rows_with_one_key_the_one_that_may_get_a_record_speaks(): void
    {
        $row = fn (Outcome $o, int $n, ?string $key = null) => new KeyState($o, $key, 1, $n);
        $left = $row(Outcome::Waived, 1);
        self::assertTrue($left->isLeft());
        self::assertSame(2, KeyState::better($left, $row(Outcome::Rejected, 2))->row);
        self::assertSame(1, KeyState::better($row(Outcome::Held, 1), $row(Outcome::Excluded, 2))->row);
        self::assertSame(2, KeyState::better($row(Outcome::Pending, 1), $row(Outcome::Loaded, 2, '7'))->row);
        self::assertSame(1, KeyState::better($row(Outcome::Loaded, 1, '7'), $row(Outcome::Pending, 2))->row);
    }

    public function test_what_makes_a_row_due_that_looked_for_another(): void
    {
        $is = fn (Outcome $o, ?string $key = null) => new KeyState($o, $key, 1, 1);
        self::assertFalse(Due::byParent('orphan', null));
        self::assertTrue(Due::byParent('orphan', $is(Outcome::Rejected)), 'it is held then');
        self::assertTrue(Due::byParent('no_match', $is(Outcome::Loaded, '7')));
        self::assertFalse(Due::byParent('parent_left', $is(Outcome::Excluded)));
        self::assertTrue(Due::byParent('parent_left', $is(Outcome::Rejected)), 'the waiver was taken back');
        self::assertFalse(Due::byParent('parent_rejected', $is(Outcome::Rejected)));
        self::assertTrue(Due::byParent('parent_rejected', $is(Outcome::Waived)), 'it is rejected for good then');
    }

    public function test_a_decision_is_about_the_failure_whatever_numbers_its_rows_have(): void
    {
        $cause = fn (string $message, ?string $value = null) => (new Cause(Stage::Matching, 'x', null, $value, $message))->decided();
        $duplicate = fn (int $row) => $cause("It is a duplicate of row $row, which was rejected");
        self::assertSame($duplicate(4), $duplicate(77));
        self::assertSame($cause('Already taken by row 4', 'K1'), $cause('Already taken by row 5', 'K1'));
        self::assertNotSame($cause('Already taken by row 4', 'K1'), $cause('Already taken by row 4', 'K2'));
        self::assertNotSame($cause('check age failed'), $cause('check size failed'));
    }
}
