<?php

namespace Tests\Feature;

use App\View\Raw;
use Illuminate\Support\Facades\Blade;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** What the eye would miss in a legacy value has a mark, and nothing in it becomes markup. */
final class RawTest extends TestCase
{
    /** @return iterable<array{string, string}> value, as it stands on the screen without its markup */
    public static function values(): iterable
    {
        yield ['Skarv', 'Skarv'];
        yield ['  Skarv ', '··Skarv·'];
        yield ['a  b', 'a  b'];
        yield ["a\tb", 'a→b'];
        yield ["a\u{00A0}b", 'a⍽b'];
        yield ["a\r\nb", "a␍␤\nb"];
        yield ["\u{FEFF}no", 'U+FEFFno'];
        yield ["a\u{200B}b\x07", 'aU+200BbU+0007'];
        yield ['<b>&amp;</b>', '<b>&amp;</b>'];
        yield [str_repeat('x', 401), str_repeat('x', 400).'… 401 characters'];
        yield ['שלום', 'שלום'];
    }

    #[DataProvider('values')]
    public function test_marks(string $value, string $shown): void
    {
        $html = Raw::html($value);
        self::assertSame($shown, html_entity_decode(strip_tags($html), ENT_QUOTES));
        self::assertStringNotContainsString('<b>', $html);
    }

    public function test_none_is_not_blank(): void
    {
        $shown = fn (?string $value) => trim(strip_tags(Blade::render('<x-raw :value="$value"/>', ['value' => $value])));
        self::assertSame(['none', '␣', '·'], [$shown(null), $shown(''), $shown(' ')]);
    }
}
