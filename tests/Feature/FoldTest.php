<?php

namespace Tests\Feature;

use Baggage\Core\Targets\Fold;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/**
 * Values a target may take for one fold alike, held against the server's own collations (WEIGHT_STRING): what is not, would be written
 * in an order that hangs on workers.
 */
final class FoldTest extends TestCase
{
    /** A family each, with the tailorings that make letters equal. */
    private const COLLATIONS = [
        'utf8mb4_general_ci', 'utf8mb4_unicode_ci', 'utf8mb4_unicode_520_ci', 'utf8mb4_swedish_ci', 'utf8mb4_danish_ci',
        'utf8mb4_german2_ci', 'utf8mb4_lithuanian_ci', 'utf8mb4_turkish_ci', 'utf8mb4_spanish2_ci', 'utf8mb4_croatian_ci',
        'utf8mb4_icelandic_ci', 'utf8mb4_estonian_ci', 'utf8mb4_vietnamese_ci', 'utf8mb4_uca1400_ai_ci', 'utf8mb4_bin',
    ];

    public function test_letters_a_collation_takes_for_one_fold_alike(): void
    {
        $ranges = [...range(0x20, 0x7E), ...range(0xA1, 0x24F), ...range(0x386, 0x52F), ...range(0x1E00, 0x1EFF), ...range(0xFF01, 0xFF5E)];
        $characters = array_map(mb_chr(...), $ranges);
        $wrong = [];
        foreach ($this->known() as $collation) {
            foreach ($this->alike($characters, $collation) as $group) {
                $folds = array_unique(array_map(Fold::of(...), $group));
                if (count($folds) > 1) {
                    $wrong[] = "$collation: ".implode(' ', array_map(fn ($c, $f) => "$c → '$f'", $group, array_map(Fold::of(...), $group)));
                }
            }
        }
        self::assertSame([], $wrong);
    }

    /** Letters that stand for two, contractions, blanks at the end. */
    public function test_words_a_collation_takes_for_one_fold_alike(): void
    {
        $words = [
            'strasse', 'straße', 'STRASE', 'Muller', 'Müller', 'Mueller', 'mülleR ', 'Aaland', 'Åland', 'aland',
            'Bjorn', 'Bjørn', 'bjÖrn', 'Bjoern', 'Vasa', 'Wasa', 'wāsa', 'Ysaye', 'Isaie', 'Æsop', 'Aesop', 'aésop',
            'Þor', 'Thor', 'llama', 'lama', 'Đurđa', 'Djurdja', 'SS 12', 'ss 12',
            'SS-12', 'ﬁn', 'fin', 'ＡＢ', 'ab', 'K007', 'K07', 'K7', "K7\t", 'Αθήνα', 'ΑΘΗΝΑ', 'Киев', 'КИЕВ',
        ];
        $wrong = [];
        foreach ($this->known() as $collation) {
            foreach ($this->alike($words, $collation) as $group) {
                if (count(array_unique(array_map(Fold::of(...), $group))) > 1) {
                    $wrong[] = "$collation: ".implode(', ', $group);
                }
            }
        }
        self::assertSame([], $wrong);
    }

    public function test_keys_and_names_are_told_apart(): void
    {
        $values = [
            'B00000001', 'B00000011', 'B00000111', 'B0000001', 'a@b.example', 'ab@example', 'SS 12', 'SS-12', '1.50', '15.0', '2024-01-02',
        ];
        self::assertSameSize($values, array_unique(array_map(Fold::of(...), $values)));
    }

    /** @return list<string> */
    private function known(): array
    {
        $there = DB::table('information_schema.collations')->pluck('collation_name')->all();

        return array_values(array_filter(
            self::COLLATIONS,
            fn (string $c) => in_array($c, $there, true) || str_contains($c, 'uca1400'),
        ));
    }

    /**
     * @param  list<string>  $texts
     * @return list<list<string>> those with the same weight
     */
    private function alike(array $texts, string $collation): array
    {
        $groups = [];
        foreach (array_chunk($texts, 300) as $some) {
            $pdo = DB::connection()->getPdo();
            $rows = implode(' UNION ALL ', array_map(
                fn (string $t) => 'SELECT '.$pdo->quote($t)." AS t, HEX(WEIGHT_STRING(RTRIM({$pdo->quote($t)}) COLLATE $collation)) AS w",
                $some,
            ));
            foreach ($pdo->query($rows)->fetchAll(\PDO::FETCH_NUM) as [$text, $weight]) {
                $groups[$weight][] = $text;
            }
        }

        return array_values(array_filter($groups, fn (array $g) => count($g) > 1));
    }
}
