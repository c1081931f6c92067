<?php

namespace Tests\Architecture;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** How the house is kept. There are no exceptions, and no list of them. */
final class HouseTest extends TestCase
{
    private const CODE = ['app', 'bench', 'core', 'database', 'demo', 'routes', 'standins', 'tests'];

    private const LONGEST_LINE = 140;

    private const LONGEST_METHOD = 40;

    /**
     * Tables with as many lines as there are rows, or a share of them, with the class that writes and the one that reads each.
     * In the ledger a reader of one table joins another where a question begins there.
     */
    private const ROW_TABLES = [
        'staged_rows' => ['Staging/StagedRows', 'Freezing/RowNumbers', 'Freezing/Alignment', 'Ledger/DeltaBook', 'Ledger/DryDelta'],
        'column_values' => ['Staging/ColumnValues'],
        'take_changes' => ['Profiling/TakeChanges', 'Profiling/TakeComparison'],
        'key_rows' => ['Profiling/KeyFinder', 'Profiling/SharedKeys'],
        'orphan_rows' => ['Profiling/ReferenceFinder'],
        'finding_rows' => ['Profiling/FindingWalk'],
        'check_rows' => ['Mapping/CheckRows'],
        'outcomes' => [
            'Ledger/LedgerWriter', 'Ledger/LedgerReader', 'Ledger/RowList', 'Ledger/CauseTallies', 'Ledger/Links', 'Ledger/DueBook',
            'Ledger/WaiverBook', 'Ledger/DryTries', 'Ledger/PairBook', 'Ledger/RepairBook', 'Ledger/CauseReader',
            'Ledger/BackOutBook', 'Ledger/DeltaBook', 'Ledger/DryDelta', 'Ledger/KeyChanges', 'Ledger/CountedLines',
        ],
        'row_causes' => [
            'Ledger/LedgerWriter', 'Ledger/LedgerReader', 'Ledger/RowList', 'Ledger/CauseTallies', 'Ledger/CauseReader', 'Ledger/DueBook',
            'Ledger/WaiverBook', 'Ledger/DryTries',
        ],
        'outcome_log' => [
            'Ledger/LedgerWriter', 'Ledger/LedgerReader', 'Ledger/RepairBook', 'Ledger/BackOutBook', 'Ledger/DeltaBook',
            'Ledger/CountedLines',
        ],
        'written_otherwise' => ['Ledger/LedgerWriter', 'Ledger/CountedLines'],
        'differing_rows' => ['Reckoning/TotalBook', 'Reckoning/Differences'],
        'total_groups' => ['Reckoning/TotalBook', 'Reckoning/Differences'],
        'group_rows' => ['Reckoning/GroupRows'],
        'values_before' => ['Ledger/LedgerWriter', 'Ledger/BackOutBook', 'Ledger/CountedLines'],
        'left_records' => ['Ledger/BackOutBook'],
        'new_keys' => ['Ledger/KeyChanges', 'Ledger/Links', 'Ledger/WaiverBook'],
        'tallies' => ['Ledger/LedgerWriter', 'Ledger/LedgerReader'],
        'causes' => [
            'Ledger/CauseBook', 'Ledger/CauseReader', 'Ledger/LedgerWriter', 'Ledger/LedgerReader', 'Ledger/RowList', 'Ledger/DueBook',
            'Ledger/WaiverBook', 'Ledger/DryTries', 'Ledger/CauseSet', 'Ledger/CauseTallies',
        ],
        'cause_tallies' => ['Ledger/CauseTallies', 'Ledger/CauseReader', 'Ledger/DueBook', 'Ledger/CauseSet'],
        'dry_rows' => ['Ledger/DryRows', 'Ledger/DryTries', 'Ledger/DryDelta'],
        'answer_changes' => ['Decisions/AnswerChanges', 'Files/AnswerReader', 'Files/AnswerList', 'Files/PageAnswers'],
        'dry_tries' => ['Ledger/DryTries', 'Ledger/DryRows', 'Ledger/DryDelta'],
        'dry_matches' => ['Ledger/DryMatches', 'Ledger/DryRows'],
        'links' => ['Ledger/Links', 'Ledger/RowList', 'Ledger/BackOutBook', 'Ledger/DeltaBook'],
        'match_entries' => ['Ledger/MatchEntries'],
        'claims' => ['Ledger/Contest'],
        'contested_rows' => ['Ledger/Contest'],
        'announced_keys' => ['Ledger/LateKeys'],
        'due_causes' => ['Ledger/DueBook', 'Ledger/LedgerReader', 'Ledger/RowList'],
        'due_rows' => ['Ledger/DueBook', 'Ledger/LedgerReader', 'Ledger/RowList'],
        'waivers' => ['Ledger/WaiverBook', 'Ledger/DueBook', 'Ledger/Links'],
        'row_places' => ['Decisions/RowKeys', 'Decisions/Following', 'Ledger/WaiverBook', 'Ledger/PairBook'],
        'correction_places' => [
            'Decisions/CorrectionBook', 'Decisions/Following', 'Decisions/RowKeys', 'Staging/Corrections', 'Ledger/DueBook',
            'Rejects/CorrectionList',
            'Ledger/RepairBook',
        ],
    ];

    private static function shape(): Shape
    {
        static $shape = null;

        return $shape ??= new Shape(dirname(__DIR__, 2));
    }

    public function test_no_line_is_longer_than_a_screen_shows(): void
    {
        $long = [];
        foreach (self::shape()->files([...self::CODE, 'resources/views']) as $file) {
            foreach (self::shape()->longLines($file, self::LONGEST_LINE) as $line) {
                $long[] = "$file:$line";
            }
        }
        self::assertSame([], $long);
    }

    public function test_folders_have_no_knots(): void
    {
        $arrows = self::shape()->arrows(['Baggage\\Core\\' => 'core', 'App\\' => 'app']);
        self::assertSame([], Shape::knots($arrows));
        self::assertGreaterThan(20, count($arrows));
        // What the finder of knots finds (the example of Tarjan's paper, shortened).
        $circle = ['a' => ['b' => 1], 'b' => ['c' => 1], 'c' => ['a' => 1, 'd' => 1], 'd' => []];
        self::assertSame([['c', 'b', 'a']], Shape::knots($circle));
    }

    /** docs/architecture.svg is drawn from the code; bin/picture draws it anew. */
    public function test_the_picture_shows_the_code_as_it_is(): void
    {
        $arrows = self::shape()->arrows(['Baggage\\Core\\' => 'core', 'App\\' => 'app']);
        self::assertSame(Picture::svg($arrows), self::shape()->text('docs/architecture.svg'));
    }

    public function test_methods_fit_on_a_screen(): void
    {
        $long = [];
        foreach (self::shape()->files(['core', 'app', 'tests']) as $file) {
            foreach (self::shape()->methods($file) as $method) {
                if (Shape::length($method) > self::LONGEST_METHOD) {
                    $long["$file $method->name"] = Shape::length($method);
                }
            }
        }
        self::assertSame([], $long);
    }

    /** A constructor assigns, and refuses what its object may not be; what can fail otherwise, wait or read has a verb. */
    public function test_constructors_assign(): void
    {
        $working = [];
        foreach (self::shape()->files(['core', 'app']) as $file) {
            foreach (self::shape()->methods($file) as $method) {
                if ($method->name->toString() === '__construct' && Shape::steps($method) > 0) {
                    $working[] = $file;
                }
            }
        }
        self::assertSame([], $working);
    }

    public function test_one_class_writes_and_one_reads_a_table_of_rows(): void
    {
        $named = [];
        foreach (self::shape()->files(['app']) as $file) {
            $text = self::shape()->text($file);
            foreach (array_keys(self::ROW_TABLES) as $table) {
                $sql = "/(?:(?:table|from|join|load|loadFile)\\((?:[^'\"()]|\\(\\))*['\"]|FROM |JOIN |INTO |UPDATE )$table\\b/i";
                if (preg_match($sql, $text) === 1) {
                    $named[$table][] = substr($file, 4, -4);
                }
            }
        }
        self::assertSameSize(self::ROW_TABLES, $named);
        foreach ($named as $table => $files) {
            $others = array_values(array_diff($files, self::ROW_TABLES[$table]));
            self::assertSame([], $others, "$table is named in other classes than its own");
        }
    }

    /** Statistics of a table that was empty a minute ago make the server read all of it for every row before it. */
    public function test_a_join_in_a_given_order_names_the_index_of_what_grows_with_the_rows(): void
    {
        $grow = [...array_keys(self::ROW_TABLES), 'corrections'];
        foreach (self::shape()->files(['app']) as $file) {
            preg_match_all('/STRAIGHT_JOIN (\\w+) \\w+\\s+(?!FORCE INDEX)/', self::shape()->text($file), $found);
            self::assertSame([], array_values(array_intersect($found[1], $grow)), $file);
        }
    }

    #[DataProvider('views')]
    public function test_a_view_holds_words_and_loops(string $view): void
    {
        $text = self::shape()->text($view);
        self::assertDoesNotMatchRegularExpression('/\\\\?(?:App|Baggage|Illuminate)\\\\|\bnew [A-Z\\\\]/', $text, 'a class is named');
        self::assertDoesNotMatchRegularExpression('/\bDB::|->table\(|\bSELECT .+ FROM\b|\bINSERT INTO\b/', $text, 'SQL');
        self::assertDoesNotMatchRegularExpression('/<script(?![^>]*\bsrc=)|\son[a-z]+=|style="/', $text, 'script or style within');
    }

    /** @return iterable<string, array{string}> */
    public static function views(): iterable
    {
        foreach (self::shape()->files(['resources/views'], '.blade.php') as $view) {
            yield $view => [$view];
        }
    }

    /** Times are said in the zone of whoever reads, by one class; what goes to print says its own. */
    #[DataProvider('views')]
    public function test_views_format_no_time_themselves(string $view): void
    {
        $isForPrint = $view === 'resources/views/specification/body.blade.php';
        self::assertSame($isForPrint, str_contains(self::shape()->text($view), "->format('"));
    }

    /**
     * Tables that are none of the one component, and why: those of one thing, those that are drawn anew while something is typed, and
     * pages of rows that are read by their number.
     */
    private const TABLES = [
        'components/table.blade.php' => 1,
        // Fields of one row, of one load, of one target.
        'rows/journey.blade.php' => 3, 'mapping/record.blade.php' => 2, 'rejects/row.blade.php' => 1,
        'rejects/answer.blade.php' => 2, 'questions/index.blade.php' => 1, 'target/records.blade.php' => 1,
        'rows/beside.blade.php' => 1,
        'mapping/sheet.blade.php' => 4, 'target/connections.blade.php' => 1, 'mapping/all.blade.php' => 1,
        'sources/extract-keys.blade.php' => 1, 'sources/column.blade.php' => 1,
        // Suggestions that are ticked and sent together, a draft, a check.
        'crosswalks/index.blade.php' => 2, 'mapping/text-draft.blade.php' => 2, 'mapping/check.blade.php' => 1,
        // The rights of the roles; a log, a page of it by its filter; both texts of a lost edit.
        'people/index.blade.php' => 1, 'components/log.blade.php' => 1, 'components/told.blade.php' => 1,
        // For print.
        'specification/body.blade.php' => 3,
        // Rows, by their numbers or keys.
        'dry-runs/show.blade.php' => 1,
        // Values of one cause, a page of them by the last; what its rows have in common.
        'rejects/detail.blade.php' => 1, 'rejects/common.blade.php' => 1,
        'rows/index.blade.php' => 1, 'rows/trace.blade.php' => 1, 'components/sources/rows.blade.php' => 1,
        // Groups and rows of a total, a page of them by the last; its two sides and its parts. Rows it is tried on.
        'totals/show.blade.php' => 4, 'totals/listed.blade.php' => 1, 'totals/trial.blade.php' => 1,
        'comparison/rows.blade.php' => 1, 'rows/family.blade.php' => 1,
        'mapping/check-rows.blade.php' => 1, 'sources/extract-changes.blade.php' => 1, 'sources/preview.blade.php' => 1,
    ];

    public function test_tables_that_may_be_long_are_of_one_kind(): void
    {
        $found = [];
        foreach (self::shape()->files(['resources/views'], '.blade.php') as $view) {
            $n = substr_count(self::shape()->text($view), '<table');
            if ($n > 0) {
                $found[substr($view, strlen('resources/views/'))] = $n;
            }
        }
        ksort($found);
        $known = self::TABLES;
        ksort($known);
        self::assertSame($known, $found);
    }

    /** An error has a named constructor per reason; only a rule's own failure is told by its code. */
    public function test_errors_are_made_by_their_names(): void
    {
        $bare = [];
        foreach (self::shape()->files(['core', 'app']) as $file) {
            if (preg_match('/new \w*(?:Error|Unavailable)\(/', self::shape()->text($file), $m) === 1) {
                $bare[] = "$file: $m[0]";
            }
        }
        self::assertSame([], $bare);
    }

    /** A job, a command and a controller authorise, call and answer: queries stand in the classes they call. */
    public function test_doors_are_thin(): void
    {
        $thick = [];
        foreach (self::shape()->files(['app']) as $file) {
            $text = self::shape()->text($file);
            $isDoor = preg_match('{^app/(Http|View|Console/Commands)/}', $file) === 1
                || str_contains($text, 'implements ShouldQueue') || str_contains($text, ', ShouldQueue');
            if ($isDoor && preg_match('/\bDB::|\bPDO\b|->getPdo\(|[a-z]Raw\(/', $text) === 1) {
                $thick[] = $file;
            }
        }
        self::assertSame([], $thick);
    }
}
