<?php

namespace App\Rejects;

use App\Catalogue\CodeColumn;
use App\Catalogue\CodeFit;
use App\Models\CodeCrosswalk;
use App\Models\CodeEntry;
use App\Models\Load;
use App\Models\Migration;
use Baggage\Core\Expressions\Rule;

/** The codes that rejected rows come from: the crosswalk, and which old values made each value of a cause. */
final readonly class CodesBehind
{
    /** Old values shown for one value of a cause. */
    private const MOST = 5;

    /**
     * @param  array<int, list<string>>  $olds  by cause
     * @param  list<string>|null  $allowed  new values to choose from
     * @param  bool  $isMissing  whether rows failed for want of a code, and not for what it became
     * @param  array<array-key, string>  $says  old value → what becomes of it now, for those of which somebody said
     */
    private function __construct(
        public CodeCrosswalk $crosswalk,
        public array $olds,
        public ?array $allowed,
        public bool $isMissing,
        public array $says,
    ) {
    }

    /** @param  list<\stdClass>  $values  of the cause, as CauseList::values() gives them */
    public static function of(Migration $migration, CauseGroup $group, ?Rule $rule, array $values): ?self
    {
        $names = $rule->codes ?? [];
        if ($names === []) {
            return null;
        }
        $isMissing = in_array($group->code, ['no_new_value', 'code_rejected'], true);
        $crosswalk = CodeCrosswalk::query()->where('migration_id', $migration->id)->where('name', $names[0])->first();
        if ($crosswalk === null) {
            return null;
        }
        $olds = [];
        $made = $isMissing ? [] : self::made($crosswalk, array_map(fn ($v) => (string) $v->value, $values));
        foreach ($values as $value) {
            $of = (string) $value->value;
            $olds[(int) $value->id] = $isMissing ? [$of] : array_slice($made[$of] ?? [], 0, self::MOST);
        }
        if (array_filter($olds) === []) {
            return null;
        }

        $entries = $crosswalk->entries()->whereIn('old_value', array_merge(...array_values($olds)))->get();
        $says = $entries->mapWithKeys(fn (CodeEntry $entry) => [$entry->old_value => CodeEntry::said($entry)])->all();

        return new self($crosswalk, $olds, self::fit($group)?->allowed(), $isMissing, $says);
    }

    /**
     * @param  list<string>  $news  new values
     * @return list<string> old values a crosswalk made them of
     */
    public static function oldsOf(int $migration, string $crosswalk, array $news): array
    {
        $of = CodeCrosswalk::query()->where('migration_id', $migration)->where('name', $crosswalk)->first();

        return $of === null ? [] : array_values(array_unique(array_merge([], ...array_values(self::made($of, $news)))));
    }

    /**
     * @param  list<string>  $news
     * @return array<array-key, list<string>> new value → old values it was made of
     */
    private static function made(CodeCrosswalk $crosswalk, array $news): array
    {
        $made = [];
        foreach (
            CodeEntry::query()
                ->where('code_crosswalk_id', $crosswalk->id)
                ->whereIn('new_value', array_filter($news, fn ($n) => $n !== ''))
                ->orderBy('old_value')
                ->get(['old_value', 'new_value']) as $entry
        ) {
            $made[(string) $entry->new_value][] = (string) $entry->old_value;
        }

        return $made;
    }

    private static function fit(CauseGroup $group): ?CodeFit
    {
        $load = Load::query()->find($group->load);

        return $load === null || $group->field === null
            ? null
            : CodeFit::of([new CodeColumn($load->id, $load->name, $load->entity_id, explode(', ', $group->field)[0], null, 0)]);
    }
}
