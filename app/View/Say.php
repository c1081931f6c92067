<?php

namespace App\View;

use App\Catalogue\CodeUse;
use App\Catalogue\CodeValue;
use App\Mapping\RuleSheet;
use App\Mapping\Samples;
use App\Models\CodeCrosswalk;
use App\Models\FindingDecision;
use App\Models\Parameter;
use App\Models\Pass;
use App\Profiling\TakeChanges;
use App\Reading\ParameterText;
use App\Reconciling\GapFinder;
use App\Support\Amount;
use App\Support\Meanwhile;
use App\Support\When;
use App\Support\WorkerPresence;
use App\View\Tables\CodeTables;
use App\View\Tables\Column;
use App\View\Tables\RunTables;
use App\View\Tables\Test;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Feeds\Arithmetic;
use Baggage\Core\Feeds\Combination;
use Baggage\Core\Mapping\Check;
use Baggage\Core\Mapping\HeaderNames;
use Baggage\Core\Matching\Normaliser;
use Baggage\Core\Profiling\Advice;
use Baggage\Core\Profiling\Shape;
use Baggage\Core\Reading\Database\Driver;
use Baggage\Core\Reading\Query\Filter;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Targets\Describing\SheetDescription;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Str;

/** How things of the job are said on screens. Every view has it as $say and knows no class besides. */
final class Say
{
    /** Fields, or columns, of a page of the rule sheet. */
    public const FIELDS = RuleSheet::PAGE;

    public const SAMPLES = Samples::KINDS;

    /** Rows shown of something at a time. */
    public const PREVIEWED = [12, 40, 200];

    public const OLDER = CountProof::OLDER;

    /** Rows of a kind that are listed where something does not add up. */
    public const GAPS = GapFinder::MOST;

    /** Stands for a cause of a check where rows are outside the scope. */
    public const OUTSIDE = Check::OUTSIDE;

    public const CHANGES = TakeChanges::KINDS;

    public const FILTERS = Filter::TESTS;

    public const PAGING = [
        'none' => 'there is one page',
        'link' => 'by the header Link',
        'number' => 'by number',
        'cursor' => 'by a value in the answer',
    ];

    public const DESCRIPTION = SheetDescription::HEADERS;

    /** A time in the zone of whoever reads it. */
    public static function when(\DateTimeInterface|string|null $at, string $as): string
    {
        return When::said($at, $as);
    }

    /**
     * What a form shows of something, so that a change by somebody else is seen.
     *
     * @param  Model|array<string, mixed>|null  $of
     * @param  list<string>  $keys
     */
    public static function shown(Model|array|null $of, array $keys): string
    {
        return Meanwhile::shown($of, $keys);
    }

    /** @param  iterable<Parameter>  $parameters */
    public static function parametersShown(iterable $parameters): string
    {
        $shown = [];
        foreach ($parameters as $parameter) {
            $shown[$parameter->name] = Meanwhile::texts($parameter, ['prompt', 'default_value']);
        }

        return json_encode((object) $shown, JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR);
    }

    public static function zone(): string
    {
        return When::zone();
    }

    /** "1 row", "1,204 rows". */
    /** A part of a whole in percent, without pretending to more than is known. */
    public static function percent(int $n, int $of): string
    {
        return match (true) {
            $of === 0 => '',
            $n > 0 && $n * 200 < $of => 'under 1 %',
            $n < $of && $n * 200 > $of * 199 => 'over 99 %',
            default => (int) round(100 * $n / $of).' %',
        };
    }

    public static function count(int $n, string $one, ?string $many = null): string
    {
        return Amount::of($n, $one, $many);
    }

    /** @param  int  $again  of the rows that are due, those whose records are to be written again */
    public static function whyDue(int $due, int $again): string
    {
        return match ($again) {
            0 => 'what they failed for was changed',
            $due => ($due === 1 ? 'its record is' : 'their records are').' to be written again',
            default => 'what they failed for was changed, or their records are to be written again',
        };
    }

    public static function label(string $entity): string
    {
        return ucfirst(str_replace('_', ' ', $entity));
    }

    public function short(string $text, int $most): string
    {
        return Str::limit($text, $most, '…');
    }

    /** Escaped HTML with marks for what the eye misses. */
    /** Whether two titles say nearly the same. */
    public function isAlike(string $one, string $other): bool
    {
        $plain = fn (string $text) => (string) preg_replace('/[^\p{L}\p{N}]+/u', '', mb_strtolower($text));
        similar_text($plain($one), $plain($other), $percent);

        return $percent >= 70;
    }

    public function raw(string $value): string
    {
        return Raw::html($value);
    }

    public function time(int $seconds): string
    {
        return PassProgress::time($seconds);
    }

    public static function key(string $key): string
    {
        return LegacyKey::show($key);
    }

    public function outcome(string $word): Outcome
    {
        return Outcome::from($word);
    }

    /** @return list<Outcome> */
    public function outcomes(): array
    {
        return Outcome::cases();
    }

    public function bar(CountProof $proof): Bar
    {
        return Bar::ofRows($proof);
    }

    /** @return list<string> what a delta finds of a load */
    public function compared(): array
    {
        return RunTables::COMPARED;
    }

    /** @return list<Otherwise> */
    public function otherwises(): array
    {
        return Otherwise::cases();
    }

    public function normaliser(string $word): string
    {
        return Normaliser::from($word)->label();
    }

    public function shape(string $shape): string
    {
        return Shape::words($shape);
    }

    public function advice(string $finding): string
    {
        return Advice::on($finding);
    }

    /** @return list<FindingDecision> */
    public function decisions(): array
    {
        return FindingDecision::cases();
    }

    /** @return list<Driver> */
    public function drivers(): array
    {
        return Driver::cases();
    }

    /** @return list<HeaderNames> */
    public function headerNames(): array
    {
        return HeaderNames::cases();
    }

    /** @return list<Combination> */
    public function combinations(): array
    {
        return Combination::cases();
    }

    /**
     * @param  array<string, mixed>  $sum
     * @return list<string>
     */
    public function arithmetic(Combination $combination, array $sum): array
    {
        return Arithmetic::say($combination, $sum);
    }

    /** @param  array<string, \Baggage\Core\Reading\Query\Parameter>  $parameters */
    public function parameters(array $parameters): string
    {
        return ParameterText::of($parameters);
    }

    public function codeState(string $is, ?string $new, ?string $note): string
    {
        return CodeUse::state(['is' => $is, 'new' => (string) $new, 'note' => (string) $note]);
    }

    /** What a rule gave: a cause that it gave nothing, the key of a parent, or a value. */
    public function kind(mixed $value): string
    {
        return match (true) {
            $value instanceof Cause => 'cause',
            $value instanceof ParentKey => 'parent',
            default => 'value',
        };
    }

    /** The value of a cause; a key of several columns as people write it. */
    public function ofCause(object $cause): ?string
    {
        $isKey = ! isset($cause->code)
            || Cause::isAboutKey($cause->code)
            || preg_match('/^(orphan|parent_|no_match|taken)/', $cause->code) === 1;

        return $isKey && $cause->value !== null ? self::key((string) $cause->value) : $cause->value;
    }

    public function codeWord(CodeCrosswalk $crosswalk, CodeValue $value): string
    {
        return CodeTables::state($crosswalk, $value);
    }

    /** What may be typed over a column of a table. */
    public function filter(Column $column): string
    {
        return $column->isNumber ? Test::NUMBERS : Test::TEXTS;
    }

    /** @return array<string, string> what is counted of loads in a pass → its title */
    public function counted(Pass $pass): array
    {
        return RunTables::counted($pass);
    }

    public function progress(Page $page, Pass $pass): PassProgress
    {
        return PassProgress::of($page, $pass);
    }

    public function isWorkedOn(Pass $pass): bool
    {
        return WorkerPresence::of("pass:$pass->id")->isAnybodyThere();
    }
}
