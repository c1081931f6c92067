<?php

namespace App\Files;

use Baggage\Core\Rows\Outcome;

/** The words of files that go to the client, in the language chosen for the migration. */
final readonly class Words
{
    /** @param  array<string, mixed>  $all */
    private function __construct(public string $language, private array $all)
    {
    }

    public static function of(string $language): self
    {
        $is = isset(self::languages()[$language]) ? $language : 'en';
        $found = trans('files', [], $is);

        return new self($is, is_array($found) ? $found : []);
    }

    /** @return array<string, string> code → name of each language there are words in */
    public static function languages(): array
    {
        $found = [];
        foreach (glob(lang_path('*/files.php')) ?: [] as $path) {
            $code = basename(dirname($path));
            $found[$code] = (string) trans('files.language', [], $code);
        }

        return $found;
    }

    /** @param  array<string, string|int>  $with */
    public function say(string $key, array $with = []): string
    {
        $text = (string) data_get($this->all, $key, $key);
        foreach ($with as $name => $value) {
            $text = str_replace(":$name", (string) $value, $text);
        }

        return $text;
    }

    public function stage(string $stage): string
    {
        return (string) ($this->all['stages'][$stage] ?? $stage);
    }

    public function outcome(Outcome $outcome): string
    {
        return (string) ($this->all['outcomes'][$outcome->value] ?? $outcome->value);
    }

    public function wrong(string $code, string $message): string
    {
        return (string) ($this->all['wrong'][$code] ?? $message);
    }

    /** @return list<string> titles of the columns that are added to the client's own; the last is the reference */
    public function added(): array
    {
        return array_map($this->say(...), ['row', 'stage', 'field', 'value', 'wrong_head', 'remark', 'reference']);
    }

    /** @return list<string> */
    public function about(): array
    {
        $with = [
            'wrong' => $this->say('wrong_head'), 'row' => $this->say('row'), 'remark' => $this->say('remark'),
            'reference' => $this->say('reference'), 'codes' => $this->say('codes'),
        ];

        return array_map(
            fn (string $line) => str_replace(array_map(fn (string $k) => ":$k", array_keys($with)), $with, $line),
            array_values((array) ($this->all['about_text'] ?? [])),
        );
    }

    /** @return list<string> */
    public function codesHead(): array
    {
        return array_values(array_map(strval(...), (array) ($this->all['codes_head'] ?? ['Column', 'Value', 'Becomes'])));
    }
}
