<?php

namespace Tests\Feature;

use App\Models\Target;
use App\Targets\SchemaReader;
use App\Targets\TargetLink;
use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Conditions\Record;
use Baggage\Core\Targets\Entity;
use Tests\TestCase;

/** What we read of CHECKs, against the database that has them: 400 random records for each clause. */
final class ConditionsAgainstDatabaseTest extends TestCase
{
    private const CLAUSES = [
        'n > 0',
        'n <> 3 and n <= 7',
        'n between -2 and 4',
        'n not between 1 and 3',
        'n in (1, 2, 5)',
        'n not in (1, -2)',
        'n = 1 or a > 2.5 or t is null',
        'a <= b',
        'a * 2 - 1 < b + n',
        'a >= b or not (n > 2)',
        '(n > 0 or a > 0) and (b > 0 or t is not null)',
        "d >= '2001-02-01'",
        "d between '2000-12-31' and '2001-06-30'",
        'e is null or e > d',
        "e < '2001-03-01 12:00:00'",
        'year(d) = 2001 and month(d) < 4',
        'char_length(t) >= 3',
        'char_length(t) between 2 and 4',
        'octet_length(t) <= 3',
        "trim(t) <> ''",
        "t in ('ab', 'A_1', 'x') or n = 1",
        "t not in ('ab', 'x')",
        "t <> 'ab'",
        "t like 'a%'",
        "t like 'A\\\\_%'",
        "t not like '%b_'",
        "t regexp '^[a-z]+\$'",
        "t regexp '^[A-Z]{1,2}.?[0-9]\$'",
        "not (t regexp '[0-9]')",
        "t regexp '^\\\\\\\\d+\$'",
        "upper(t) = 'AB'",
        'f = true',
        'f in (0) or n > 1',
    ];

    /** Sorting and what capitals count for is the server's: these may be told or not, but never wrongly. */
    private const TEXTS = [
        'ab', 'AB', 'Ab', 'A_1', 'AB1', 'a', '', '  ', ' ab', 'ab ', 'x', 'éé', 'Äb', 'ß', 'ss',
        '12', '1', 'abb1', 'A1', "a\nb", '%', 'b', 'abc',
    ];

    private function wanting(): TargetLink
    {
        return new TargetLink(new Target([
            'name' => 't',
            'host' => '127.0.0.1',
            'port' => (string) getenv('DB_PORT'),
            'database' => (string) getenv('HARBOUR_OFFICE_DATABASE'),
            'username' => 'harbour',
            'password' => (string) getenv('HARBOUR_OFFICE_PASSWORD'),
        ]));
    }

    public function test_conditions_hold_where_the_database_says_so(): void
    {
        mt_srand(20261126);
        $pdo = $this->wanting()->pdo();
        $told = $silent = 0;
        foreach (self::CLAUSES as $i => $clause) {
            $pdo->exec("DROP TABLE IF EXISTS conditions_$i");
            $pdo->exec("CREATE TABLE conditions_$i (id INT AUTO_INCREMENT PRIMARY KEY, n INT, a DECIMAL(6,2), b DECIMAL(6,2), d DATE,
                e DATETIME, t VARCHAR(20), f TINYINT(1), CONSTRAINT wanted CHECK ($clause)) ENGINE=InnoDB");
        }
        $schema = (new SchemaReader)->read($this->wanting());
        foreach (self::CLAUSES as $i => $clause) {
            $entity = $schema->entities["conditions_$i"];
            $conditions = Condition::of($entity);
            self::assertNotSame([], $conditions, $clause);
            foreach ($conditions as $condition) {
                self::assertTrue($condition->isRead(), "$clause: {$condition->words()}");
            }
            for ($n = 0; $n < 400; $n++) {
                $record = self::record();
                $is = self::holds($conditions, $record);
                $takes = $this->takes($pdo, $entity, $record);
                $says = "$clause with ".json_encode($record);
                // Unknown is taken, as SQL has it; where only a collation can tell, nothing is claimed.
                self::assertTrue($is !== false || ! $takes, "refused by us alone: $says");
                if (! $takes && $is !== false) {
                    self::assertMatchesRegularExpression('/\bt\b/', $clause, "refused by the database alone: $says");
                    $silent++;
                }
                $told += $is === false ? 1 : 0;
            }
            $pdo->exec("DROP TABLE conditions_$i");
        }
        self::assertGreaterThan(3_000, $told);
        self::assertLessThan($told * 0.1, $silent, 'What is left to the target is the exception.');
    }

    /** @return array<string, string|null> */
    private static function record(): array
    {
        $some = fn (string $value) => mt_rand(1, 9) === 1 ? null : $value;
        $day = sprintf('2001-%02d-%02d', mt_rand(1, 8), mt_rand(1, 28));

        return [
            'n' => $some((string) mt_rand(-4, 9)),
            'a' => $some(sprintf('%d.%02d', mt_rand(-3, 5), mt_rand(0, 99))),
            'b' => $some(sprintf('%d.%02d', mt_rand(0, 5), mt_rand(0, 99))),
            'd' => $some(mt_rand(0, 1) === 1 ? $day : '2000-12-31'),
            'e' => $some("$day ".(mt_rand(0, 1) === 1 ? '00:00:00' : '12:00:00')),
            't' => $some(self::TEXTS[array_rand(self::TEXTS)]),
            'f' => $some((string) mt_rand(0, 1)),
        ];
    }

    /**
     * @param  list<Condition>  $conditions
     * @param  array<string, string|null>  $record
     */
    private static function holds(array $conditions, array $record): ?bool
    {
        $all = true;
        foreach ($conditions as $condition) {
            $is = $condition->holds(new Record($record));
            if ($is === false) {
                return false;
            }
            $all = $is === null ? null : $all;
        }

        return $all;
    }

    /** @param  array<string, string|null>  $record */
    private function takes(\PDO $pdo, Entity $entity, array $record): bool
    {
        $insert = $pdo->prepare("INSERT INTO $entity->name (".implode(', ', array_keys($record)).') VALUES (?, ?, ?, ?, ?, ?, ?)');
        try {
            $pdo->beginTransaction();

            return $insert->execute(array_values($record));
        } catch (\PDOException $e) {
            self::assertSame(4025, $e->errorInfo[1] ?? null, $e->getMessage());

            return false;
        } finally {
            $pdo->rollBack();
        }
    }
}
