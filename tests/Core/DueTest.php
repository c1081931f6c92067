<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Matching\Normaliser;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\ChoiceType;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** A changed code makes rows due that failed because of it, whatever the failure was called. */
final class DueTest extends TestCase
{
    private const USED = ['' => ['berths'], 'kind' => ['kinds'], 'name' => []];

    /** @param  array<string, array<string, string>>  $codes */
    private static function plan(array $codes): PlanVersion
    {
        $entity = new Entity('craft', 'id', [
            new Field('id', new TextType(9), true, true),
            new Field('kind', new ChoiceType(['sail', 'motor'])),
            new Field('name', new TextType(9)),
        ]);
        $rules = ['kind' => "code('kinds', kind)", 'name' => 'trim(name)'];

        return new PlanVersion([
            new LoadDefinition(
                1, 'Craft', $entity, 'A', 'A', ['no'], KeyNormalisation::Trim, $rules, "code('berths', berth) == 'y'", 'not ours',
                matches: [new MatchRule('by kind', ['kind' => Normaliser::Exact])],
            ),
        ], [
            'kinds' => new CodeCrosswalk('kinds', $codes['kinds']),
            'berths' => new CodeCrosswalk('berths', $codes['berths']),
        ], [], []);
    }

    /** @return iterable<string, array{Stage, string, string|null, string|null, bool, bool}> due after YT, after berth 7 was changed */
    public static function failures(): iterable
    {
        yield 'no new value for it' => [Stage::Mapping, 'no_new_value', 'kind', 'YT', true, true];
        yield 'no new value for another' => [Stage::Mapping, 'no_new_value', 'kind', 'ZZ', false, true];
        yield 'a new value the target does not allow' => [Stage::Checks, 'not_allowed', 'kind', 'yacht', true, true];
        yield 'a check of the target over two fields' => [Stage::Writing, 'check_failed', 'kind, name', 'yacht, Skarv', true, true];
        yield 'the target names no field' => [Stage::Writing, 'refused', null, null, true, true];
        yield 'two records it could be' => [Stage::Matching, 'several_records', null, null, true, true];
        yield 'a code of the scope' => [Stage::Scope, 'no_new_value', null, '7', false, true];
        yield 'another code of the scope' => [Stage::Scope, 'no_new_value', null, '8', false, false];
        yield 'another field' => [Stage::Checks, 'too_long', 'name', 'Skarv of the Sound', false, true];
    }

    #[DataProvider('failures')]
    public function test_codes_make_rows_due(Stage $stage, string $code, ?string $field, ?string $value, bool $byKind, bool $byBerth): void
    {
        $then = self::plan(['kinds' => ['YT' => 'yacht'], 'berths' => ['1' => 'y']]);
        $kind = self::plan(['kinds' => ['YT' => 'sail'], 'berths' => ['1' => 'y']]);
        $berth = self::plan(['kinds' => ['YT' => 'yacht'], 'berths' => ['1' => 'y', '7' => 'y']]);
        $due = fn (PlanVersion $now) => (new Due($then, self::USED, $now, self::USED, 1))->byRule($stage, $code, $field, $value);
        self::assertSame([false, $byKind, $byBerth], [$due($then), $due($kind), $due($berth)]);
    }
}
