<?php

namespace Baggage\Core\Plan;

use Baggage\Core\Reading\Limits;
use JsonSchema\Validator;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/** Reads a plan file: YAML that means what is written, checked against plan.schema.json and then against itself. */
final class PlanReader
{
    public const SCHEMA = __DIR__.'/plan.schema.json';

    /** What the schema's patterns ask for, in words. */
    private const PATTERNS = [
        '^[A-Za-z0-9_-]{1,12}$' => '1 to 12 letters, digits, hyphens or underscores',
        '^[A-Z_][A-Z0-9_]*$' => 'the name of an environment variable: capitals, digits and underscores',
        '^[^/]+/[^/]+$' => 'a source and its extract, as BB/craft',
        '^[^/]{1,100}$' => '1 to 100 characters, no slash',
    ];

    /** What the YAML reader says, which may quote a file that is no plan, in words of our own. */
    private const NOT_YAML = [
        'Implicit casting' => 'A key here reads as a number, a date or true and false: put it in quotes.',
        'Numeric keys' => 'A key here reads as a number, a date or true and false: put it in quotes.',
        'Non-string keys' => 'A key here reads as a number, a date or true and false: put it in quotes.',
        'Duplicate key' => 'The same key stands here a second time.',
        'Colons must be followed' => 'A colon here has no blank behind it: put a text that holds colons in quotes.',
        'A YAML file cannot contain tabs' => 'The line is indented with a tab: YAML takes blanks alone.',
        'Reference' => 'An alias here names an anchor that is not there.',
        'Maximum number of collection aliases' => 'Its aliases make more of it than a plan may hold.',
        'Circular reference' => 'An alias here names itself.',
    ];

    /** @throws PlanError with every mistake found */
    public function read(string $yaml, string $file): PlanFile
    {
        if (strlen($yaml) > Limits::now()->plan) {
            throw PlanError::at($file, null, 'A plan has at most '.number_format(Limits::now()->plan / 1e6, 1).' MB.');
        }
        $deep = self::tooDeep($yaml);
        if ($deep !== null) {
            throw PlanError::at($file, null, 'What stands here is nested more than '.Limits::now()->depth.' deep.', $deep);
        }
        try {
            $plan = mb_check_encoding($yaml, 'UTF-8')
                ? Yaml::parse($yaml, Yaml::PARSE_EXCEPTION_ON_INVALID_TYPE)
                : throw PlanError::at($file, null, 'The file is not UTF-8.');
        } catch (ParseException $e) {
            // The parser quotes the line; a file that is no plan may be anything.
            $known = array_filter(self::NOT_YAML, fn (string $says) => str_starts_with($e->getMessage(), $says), ARRAY_FILTER_USE_KEY);
            $line = $e->getParsedLine() > 0 ? $e->getParsedLine() : null;
            throw PlanError::at($file, null, reset($known) ?: 'This is not YAML.', $line);
        }
        if (! is_array($plan) || array_is_list($plan)) {
            throw PlanError::noPlan($file);
        }
        $places = Places::of($yaml);
        $read = new PlanFile($file, $plan, $places);
        foreach (
            [
                fn () => self::asWritten($read, $places),
                fn () => $this->againstSchema($read),
                fn () => Consistency::mistakes($read),
            ] as $check
        ) {
            $mistakes = $check();
            if ($mistakes !== []) {
                throw PlanError::of($mistakes);
            }
        }

        return $read;
    }

    /** @return int|null a line that is indented, or led by dashes, more often than a plan is: its reader holds a copy for each */
    private static function tooDeep(string $yaml): ?int
    {
        $most = Limits::now()->depth;
        $around = [];
        foreach (preg_split('/\r\n|\n|\r/', $yaml) ?: [] as $i => $line) {
            $indent = strspn($line, ' ');
            $dashes = strspn($line, '- ', $indent);
            if ($indent + $dashes === strlen($line) && $dashes === 0) {
                continue;
            }
            while ($around !== [] && end($around) >= $indent) {
                array_pop($around);
            }
            $around[] = $indent;
            if (count($around) + substr_count($line, '- ', $indent, $dashes) > $most) {
                return $i + 1;
            }
        }

        return null;
    }

    /** @return list<Mistake> where YAML gives something else than what a person wrote */
    private static function asWritten(PlanFile $read, Places $places): array
    {
        if ($places->aliases > Limits::now()->aliases || self::values($read->plan, 0) > Limits::now()->values) {
            return [$read->mistake([], 'It holds more values than a plan may, or its aliases make more of them.')];
        }
        $mistakes = [];
        self::compare($read, $places, $read->plan, [], $mistakes);

        return $mistakes;
    }

    /** @param  array<mixed>  $part */
    private static function values(array $part, int $so): int
    {
        foreach ($part as $value) {
            $so = is_array($value) ? self::values($value, $so) : $so + 1;
            if ($so > Limits::now()->values) {
                break;
            }
        }

        return $so + 1;
    }

    /**
     * @param  array<mixed>  $part
     * @param  list<string|int>  $path  of it
     * @param  list<Mistake>  $mistakes
     */
    private static function compare(PlanFile $read, Places $places, array $part, array $path, array &$mistakes): void
    {
        foreach ($places->keys($path) ?? [] as $key) {
            if ($key !== '<<' && ! array_key_exists($key, $part)) {
                $mistakes[] = $read->mistake([...$path, $key], "YAML reads this key otherwise than it is written: put \"$key\" in quotes");
            }
        }
        foreach ($part as $key => $value) {
            $at = [...$path, $key];
            $written = is_array($value) || is_string($value) || $value === null ? null : $places->plain($at);
            if (is_float($value) && ! is_finite($value)) {
                $mistakes[] = $read->mistake($at, 'infinity and "not a number" mean nothing in a plan');
            } elseif ((is_int($value) || is_float($value)) && $written !== null && $written !== (string) $value) {
                $mistakes[] = $read->mistake($at, "YAML reads this as $value: put \"$written\" in quotes, or write $value");
            } elseif (is_array($value)) {
                self::compare($read, $places, $value, $at, $mistakes);
            }
        }
    }

    /** @return list<Mistake> */
    private function againstSchema(PlanFile $read): array
    {
        // An empty mapping is an empty list to PHP; the schema means objects.
        $data = json_decode(json_encode($read->plan, JSON_THROW_ON_ERROR));
        $validator = new Validator;
        $validator->validate($data, json_decode((string) file_get_contents(self::SCHEMA)));
        $mistakes = [];
        foreach ($validator->getErrors() as $error) {
            $mistake = self::inWords($read, (string) $error['pointer'], (string) $error['message']);
            $mistakes[(string) $mistake->field] ??= $mistake;
        }
        // What is wrong further inside says it better, also where a value has alternatives: it stands next to what it is inside of.
        $sorted = array_map(fn (string|int $field) => str_replace('.', "\0", (string) $field), array_keys($mistakes));
        sort($sorted, SORT_STRING);
        foreach ($sorted as $i => $field) {
            if (str_starts_with($sorted[$i + 1] ?? '', "$field\0")) {
                unset($mistakes[str_replace("\0", '.', $field)]);
            }
        }

        return array_values($mistakes);
    }

    private static function inWords(PlanFile $read, string $pointer, string $message): Mistake
    {
        $path = array_map(
            fn ($p) => ctype_digit($p) ? (int) $p : str_replace(['~1', '~0', '%20'], ['/', '~', ' '], $p),
            array_values(array_filter(explode('/', $pointer), fn ($p) => $p !== '')),
        );
        if (preg_match('/property (\S+) is not defined and the definition does not allow/', $message, $m) === 1) {
            $path[] = $m[1];
            $message = "unknown field \"$m[1]\"";
        } elseif (preg_match('/^Does not match the regex pattern (.+)$/s', $message, $m) === 1) {
            $message = 'must be '.(self::PATTERNS[$m[1]] ?? "text like $m[1]");
        }

        return $read->mistake($path, $message);
    }
}
