<?php

namespace Tests\Core;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Said;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\TestCase;
use Tests\Support\MemoryTarget;
use Tests\Support\WhatATargetMustDo;

/** The target the core is driven with, held to what every target must do; and the receipts all of them write. */
final class MemoryTargetTest extends TestCase
{
    use WhatATargetMustDo;

    private MemoryTarget $memory;

    protected function setUp(): void
    {
        $this->memory = new MemoryTarget;
    }

    protected function port(): Target
    {
        return $this->memory;
    }

    protected function records(): TargetRecords
    {
        return $this->memory;
    }

    protected function harbour(): Entity
    {
        return new Entity('harbour', 'id', [
            new Field('id', new TextType(20), false, true),
            new Field('code', new TextType(8), true),
            new Field('name', new TextType(60), true),
        ], [['code']]);
    }

    protected function berth(): Entity
    {
        return new Entity('berth', 'id', [
            new Field('note', new TextType(40)),
            new Field('id', new TextType(20), false, true),
            new Field('code', new TextType(8), true),
            new Field('harbour', new TextType(20), true, false, 'harbour'),
        ]);
    }

    public function test_a_receipt_is_read_as_it_was_written(): void
    {
        $receipt = new Receipt(9, [
            new Answer(3, Done::Created, "k'1"),
            new Answer(4, Done::Refused, null, new Said(Said::TAKEN, ['a', 'b'], 'Bjørn "x"')),
            new Answer(9, Done::Changed, '7', null, ['name' => null, 'town' => "Ær\u{0}ø"]),
        ]);
        self::assertEquals($receipt, Receipt::unpack($receipt->pack()));
        self::assertEquals(new Receipt(0, []), Receipt::unpack((new Receipt(0, []))->pack()));
    }

    public function test_a_damaged_receipt_is_refused(): void
    {
        $good = (new Receipt(9, [new Answer(3, Done::Created, '1')]))->pack();
        $packed = fn (string $json) => (string) gzcompress($json);
        $bad = [
            '', 'x', substr($good, 0, -4), substr_replace($good, 'z', 12, 1), $packed('[]'), $packed('{"v":1,"to":"9","answers":[]}'),
            $packed('{"v":1,"to":9,"answers":[[3,"x","1"]]}'), $packed('{"v":1,"to":9,"answers":[["3","c","1"]]}'),
            $packed('{"v":1,"to":9,"answers":[3]}'), $packed('{"v":2,"to":9,"answers":[]}'), $packed(serialize(new \ArrayObject([1]))),
            // 200 MB of blanks in 200 KB.
            $packed(str_repeat(' ', 200 << 20)),
        ];
        foreach ($bad as $i => $bytes) {
            try {
                Receipt::unpack($bytes);
                self::fail("receipt $i was read");
            } catch (TargetUnavailable $e) {
                self::assertStringContainsString('A receipt in the target', $e->getMessage());
            }
        }
    }
}
