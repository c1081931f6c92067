<?php

namespace Tests\Core;

use Baggage\Core\Ordering\LoadOrder;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Ordering\Reference;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class LoadOrderTest extends TestCase
{
    public function test_vessels_and_agreements_point_at_each_other(): void
    {
        $order = LoadOrder::of(
            ['agreement', 'vessel', 'party', 'berth', 'harbour'],
            [
                new Reference('agreement', 'party', 'party', true),
                new Reference('agreement', 'vessel', 'vessel', true),
                new Reference('agreement', 'berth', 'berth', true),
                new Reference('vessel', 'owner', 'party', true),
                new Reference('vessel', 'current_agreement', 'agreement', false),
                new Reference('party', 'bill_to', 'party', false),
                new Reference('berth', 'harbour', 'harbour', true),
            ],
        );
        self::assertSame(['agreement' => 3, 'vessel' => 2, 'party' => 1, 'berth' => 2, 'harbour' => 1], $order->waves);
        self::assertSame(['current_agreement'], $order->deferredFields('vessel'));
        self::assertSame(['bill_to'], $order->deferredFields('party'));
        self::assertSame([], $order->deferredFields('agreement'));
    }

    public function test_a_nullable_reference_that_closes_no_circle_is_kept(): void
    {
        $order = LoadOrder::of(
            ['a', 'b', 'c'],
            [
                new Reference('a', 'b', 'b', false),
                new Reference('b', 'c', 'c', false),
                new Reference('a', 'x', 'elsewhere', true),
            ],
        );
        self::assertSame([[], ['a' => 3, 'b' => 2, 'c' => 1]], [$order->deferred, $order->waves]);
    }

    public function test_a_circle_of_required_references_is_named(): void
    {
        $this->expectException(OrderError::class);
        $this->expectExceptionMessage('a.b, b.a');
        LoadOrder::of(
            ['a', 'b', 'c'],
            [
                new Reference('a', 'b', 'b', true),
                new Reference('b', 'a', 'a', true),
                new Reference('c', 'a', 'a', true),
            ],
        );
    }

    /** coreutils tsort judges independently whether what is kept has a circle, and our waves respect every kept pair. */
    public function test_against_tsort(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($round = 0; $round < 25; $round++) {
            $entities = array_map(fn ($i) => "e$i", range(0, $random->getInt(2, 12)));
            $references = [];
            for ($i = 0, $n = $random->getInt(1, 30); $i < $n; $i++) {
                $pair = [
                    $entities[$random->getInt(0, count($entities) - 1)],
                    $entities[$random->getInt(0, count($entities) - 1)],
                ];
                // Required ones only point to lower names, so that an order exists.
                $references[] = new Reference(
                    $pair[0],
                    "f$i",
                    $pair[1],
                    strcmp($pair[1], $pair[0]) < 0 && $random->getInt(0, 1) === 1,
                );
            }
            $order = LoadOrder::of($entities, $references);
            $pairs = implode("\n", array_map(fn (Reference $r) => "$r->parent $r->child", $order->kept));
            exec('printf %s '.escapeshellarg($pairs."\n").' | tsort 2>&1', $lines, $code);
            self::assertSame(0, $code, implode(' ', $lines));
            foreach ($order->kept as $r) {
                self::assertLessThan($order->waves[$r->child], $order->waves[$r->parent]);
            }
            foreach ($order->deferred as $r) {
                self::assertFalse($r->required);
                // Without need nothing is deferred: putting it back would close a circle.
                exec('printf %s '.escapeshellarg("$pairs\n$r->parent $r->child\n").' | tsort 2>&1', $lines, $code);
                self::assertTrue($code !== 0 || $r->parent === $r->child);
            }
        }
    }
}
