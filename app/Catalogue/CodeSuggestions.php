<?php

namespace App\Catalogue;

use App\Models\CodeCrosswalk;
use App\Models\CodeEntry;
use Baggage\Core\Mapping\CodeSuggester;

/** New values for the old ones a code crosswalk does not know, from the target's list and from crosswalks made before. */
final class CodeSuggestions
{
    private const MOST = 500;

    /** @return array<array-key, array{new: string, reason: string, sure: bool}> by old value */
    public static function of(CodeUse $use, CodeCrosswalk $crosswalk, bool $byPlace = false): array
    {
        $olds = array_values(
            array_map(
                fn ($v) => $v->old,
                array_filter($use->values($crosswalk), fn ($v) => ! $v->mapped && $v->rows > 0),
            ),
        );
        if ($olds === [] || count($olds) > self::MOST) {
            return [];
        }
        sort($olds);
        $news = CodeFit::of($use->of($crosswalk->name))->allowed()
            ?? array_values(array_unique($crosswalk->entries->pluck('new_value')->filter()->all()));
        $earlier = [];
        foreach (
            CodeEntry::query()
                ->whereIn('old_value', $olds)
                ->whereNotNull('new_value')
                ->where('code_crosswalk_id', '<>', $crosswalk->id)
                ->with('crosswalk.migration')
                ->latest('id')
                ->limit(self::MOST)
                ->get() as $entry
        ) {
            $earlier[$entry->old_value] ??= [
                (string) $entry->new_value,
                "\"{$entry->crosswalk?->name}\" of {$entry->crosswalk?->migration?->name}",
            ];
        }

        return CodeSuggester::suggest($olds, $news, $earlier, $byPlace);
    }
}
