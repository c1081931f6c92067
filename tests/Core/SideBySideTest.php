<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\Seen;
use Baggage\Core\Loading\SideBySide;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Ordering\Reference;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\TestCase;

/** Which loads go beside each other, and which rows go one after another. */
final class SideBySideTest extends TestCase
{
    /** @param  array<string, string>  $rules */
    private function load(int $id, string $entity, WritePolicy $policy, array $rules, bool $matched = false): LoadDefinition
    {
        $field = fn (string $name) => new Field($name, new TextType(20), false, false, $name === 'owner' ? 'party' : null);
        $of = new Entity($entity, 'id', array_map($field, ['id', 'name', 'mail', 'owner']), $entity === 'party' ? [['mail']] : []);
        $rule = MatchRule::fromArray(['name' => 'by name', 'on' => ['name' => 'exact']]);

        return new LoadDefinition(
            $id, "L$id", $of, 'S', 'S', ['no'], KeyNormalisation::Trim, $rules, policy: $policy, matches: $matched ? [$rule] : [],
        );
    }

    private function plan(): PlanVersion
    {
        return new PlanVersion([
            $this->load(1, 'party', WritePolicy::Create, ['name' => 'name', 'mail' => 'mail']),
            $this->load(2, 'party', WritePolicy::CreateOrUpdate, ['name' => 'name'], true),
            // Without a match rule it looks for its records by their keys.
            $this->load(3, 'party', WritePolicy::Update, ['name' => 'name']),
            $this->load(4, 'party', WritePolicy::Update, ['mail' => 'mail']),
            $this->load(5, 'party', WritePolicy::Create, ['name' => 'name']),
            $this->load(6, 'boat', WritePolicy::Create, ['owner' => 'parent(owner)']),
        ], [], [], [new Reference('boat', 'owner', 'party', true)]);
    }

    public function test_loads_that_look_by_keys_come_between(): void
    {
        $plan = $this->plan();
        $order = new SideBySide($plan);
        $ids = fn (array $loads) => array_map(fn (LoadDefinition $l) => $l->id, $loads);
        $beside = array_map(fn (LoadDefinition $l) => $ids($order->beside($l)), $plan->loads);
        self::assertSame([[1, 2], [1, 2], [3], [4], [5], [6]], $beside);
        $before = array_map(fn (LoadDefinition $l) => $ids($order->before($l)), $plan->loads);
        self::assertSame([[], [], [1, 2], [1, 2, 3], [1, 2, 3, 4], [1, 2, 3, 4, 5]], $before);
    }

    public function test_rows_go_in_turn_where_they_may_meet_what_stands(): void
    {
        $loads = $this->plan()->loads;
        $order = new SideBySide($this->plan());
        self::assertFalse($order->inTurn([$loads[0], $loads[1]], true, false, false));
        self::assertTrue($order->inTurn([$loads[0], $loads[1]], false, false, false), 'again');
        self::assertTrue($order->inTurn([$loads[4]], true, true, false), 'after others of its entity');
        self::assertFalse($order->inTurn([$loads[2]], true, true, false), 'it changes no value that must be unique');
        self::assertTrue($order->inTurn([$loads[3]], true, true, false), 'it may leave a value free');
        self::assertFalse($order->inTurn([$loads[0], $loads[1]], true, false, true), 'what it changes must not be unique');
    }

    public function test_claims_that_were_seen_are_never_forgotten(): void
    {
        $seen = Seen::expecting(20_000);
        $claim = fn (string $of) => hash('xxh3', $of, true);
        $wrong = 0;
        for ($i = 0; $i < 20_000; $i++) {
            $wrong += (int) $seen->add($claim("K$i"));
        }
        for ($i = 0; $i < 20_000; $i += 7) {
            self::assertTrue($seen->add($claim("K$i")));
        }
        // Bloom (1970): (1 - e^(-kn/m))^k with k = 3 and m/n >= 16 is about 0.5 % at the end, less on the way.
        self::assertLessThan(20_000 * 0.005, $wrong);
    }
}
