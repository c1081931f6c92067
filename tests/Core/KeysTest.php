<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Matching\Normaliser;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Keys, what makes two records the same, and the law that no row is lost. */
final class KeysTest extends TestCase
{
    /** @return iterable<array{KeyNormalisation, string|null, string}> */
    public static function parts(): iterable
    {
        yield [KeyNormalisation::Exact, ' a-07 ', ' a-07 '];
        yield [KeyNormalisation::Trim, " a-07\t", 'a-07'];
        yield [KeyNormalisation::Capitals, ' ørn-7 ', 'ØRN-7'];
        yield [KeyNormalisation::Number, ' 00417 ', '417'];
        yield [KeyNormalisation::Number, '000', '0'];
        yield [KeyNormalisation::Number, '0a7', 'A7'];
        yield [KeyNormalisation::Trim, null, ''];
    }

    #[DataProvider('parts')]
    public function test_parts_of_keys(KeyNormalisation $how, ?string $part, string $expected): void
    {
        self::assertSame($expected, $how->part($part));
        self::assertSame($expected, LegacyKey::of([$part], $how));
    }

    public function test_composite_keys_never_run_into_each_other(): void
    {
        $keys = [];
        foreach ([['A', 'B'], ['AB', ''], ['', 'AB'], ['A', '', 'B'], ['A', 'B', '']] as $parts) {
            $keys[] = LegacyKey::of($parts, KeyNormalisation::Trim);
        }
        self::assertSame(count($keys), count(array_unique($keys)));
        self::assertSame('', LegacyKey::of(['', ' ', null], KeyNormalisation::Trim), 'all blank is no key');
        self::assertSame('INV / 007', LegacyKey::show(LegacyKey::of(['INV', '007'], KeyNormalisation::Trim)));
        self::assertSame(LegacyKey::of(['INV', '007'], KeyNormalisation::Trim), LegacyKey::typed('INV / 007'));
        self::assertSame('INV / 007', (string) new ParentKey('BB', ['INV', '007']));
    }

    /** @return iterable<array{Normaliser, string, string, bool}> how, two values, whether they are the same */
    public static function pairs(): iterable
    {
        yield [Normaliser::Exact, 'Skarv', 'Skarv', true];
        yield [Normaliser::Exact, 'Skarv', 'skarv', false];
        yield [Normaliser::Letters, 'OS1 0001', 'os10001', true];
        yield [Normaliser::Letters, 'Kjær', 'KJAER', true];
        yield [Normaliser::Organisation, 'Tarn & Holm Marine Ltd', 'TARN AND HOLM MARINE LIMITED', true];
        yield [Normaliser::Organisation, 'Skerry Boatyard GmbH', 'Skerry Boatyard', true];
        yield [Normaliser::Organisation, 'Skerry Boatyard', 'Skerry Boats', false];
        yield [Normaliser::Person, 'Ellingsen, Maud', 'maud ELLINGSEN', true];
        yield [Normaliser::Person, 'Maud Ellingsen', 'Maude Ellingsen', false];
        yield [Normaliser::Digits, '(0151) 496-0018', '0151 4960018', true];
        yield [Normaliser::Email, ' P7@Post.Example', 'p7@post.example', true];
    }

    #[DataProvider('pairs')]
    public function test_what_makes_two_values_the_same(Normaliser $how, string $a, string $b, bool $same): void
    {
        self::assertSame($same, $how->key($a) === $how->key($b));
        self::assertNull($how->key('  '), 'blank never matches');
        self::assertNull($how->key(null));
    }

    public function test_records_match_when_all_stated_fields_do(): void
    {
        $rule = MatchRule::fromArray(['name' => 'same firm', 'on' => ['name' => 'organisation', 'postcode' => 'letters']]);
        $key = $rule->key(['name' => 'Tarn Marine Ltd', 'postcode' => 'OS1 0001']);
        self::assertSame($key, $rule->key(['name' => 'TARN MARINE', 'postcode' => 'os10001', 'town' => 'elsewhere']));
        self::assertNotSame($key, $rule->key(['name' => 'Tarn Marine Ltd', 'postcode' => 'OS1 0002']));
        self::assertNull($rule->key(['name' => 'Tarn Marine Ltd', 'postcode' => '']));
        self::assertSame(['name' => 'organisation', 'postcode' => 'letters'], $rule->toArray()['on']);
        $letters = MatchRule::fromArray(['name' => 'a', 'on' => ['name' => 'letters']]);
        $town = MatchRule::fromArray(['name' => 'a', 'on' => ['town' => 'letters']]);
        self::assertNotSame($letters->key(['name' => 'Holm']), $town->key(['town' => 'Holm']), 'other rules have other keys');
    }

    public function test_what_the_policies_may_do(): void
    {
        $may = fn (WritePolicy $p) => [$p->creates(), $p->updates()];
        self::assertSame([true, false], $may(WritePolicy::Create));
        self::assertSame([true, true], $may(WritePolicy::CreateOrUpdate));
        self::assertSame([false, true], $may(WritePolicy::Update));
        self::assertSame([false, false], $may(WritePolicy::Match));
    }

    /** DESIGN section 2: feed rows are the sum of the outcomes, the target grows by loaded minus removed. */
    public function test_the_law_over_random_ledgers(): void
    {
        mt_srand(21);
        for ($i = 0; $i < 300; $i++) {
            $outcomes = [];
            foreach (Outcome::cases() as $outcome) {
                $outcomes[$outcome->value] = mt_rand(0, 50);
            }
            // Rows delivered no more stand beside the sum.
            $inside = array_filter($outcomes, fn (string $o) => ! Outcome::from($o)->isBeside(), ARRAY_FILTER_USE_KEY);
            $rows = array_sum($inside);
            $before = mt_rand(0, 1000);
            $made = $outcomes['loaded'] - $outcomes['removed'];
            $other = mt_rand(-20, 20);
            $proof = new CountProof($rows, $rows, $outcomes, 0, $before, $before + $made + $other, $other, $made);
            self::assertTrue($proof->holds());
            self::assertSame($outcomes['rejected'] + $outcomes['held'] + $outcomes['pending'] + $outcomes['review'], $proof->open());
            // One row gone from anywhere breaks it, and says by how much.
            $lost = (string) array_rand(array_filter($inside));
            $broken = new CountProof($rows, $rows, [$lost => $outcomes[$lost] - 1] + $outcomes, 0);
            self::assertSame([1, false], [$broken->unaccounted(), $broken->holds()]);
            $short = new CountProof($rows + 3, $rows, $outcomes, 0);
            self::assertSame([3, 0, false], [$short->lostInReading(), $short->unaccounted(), $short->holds()]);
            $gap = new CountProof($rows, $rows, $outcomes, 0, $before, $before + $made + $other - 1, $other, $made);
            self::assertSame([-1, false], [$gap->targetGap(), $gap->holds()]);
            // Two loads of one entity: rows add up, the target is counted once.
            $sum = CountProof::sum($proof, new CountProof(5, 5, ['loaded' => 2], 3));
            self::assertSame(
                [$rows + 5, 0, $outcomes['pending'] + 3, 0],
                [$sum->feedRows, $sum->unaccounted(), $sum->count(Outcome::Pending), $sum->targetGap()],
            );
        }
    }
}
