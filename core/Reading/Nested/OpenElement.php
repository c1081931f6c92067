<?php

namespace Baggage\Core\Reading\Nested;

/** An XML element whose end has not come yet. */
final class OpenElement
{
    /** @var array<string, list<mixed>> */
    public array $children = [];

    public string $text = '';

    /** @param  array<string, string>  $attributes */
    public function __construct(public readonly int $line, private readonly array $attributes)
    {
    }

    /** @return array<array-key, mixed>|string|null what it holds: text alone, or attributes led by "@" and its children by name */
    public function value(): array|string|null
    {
        if ($this->attributes === [] && $this->children === []) {
            return $this->text === '' ? null : $this->text;
        }
        $value = [];
        foreach ($this->attributes as $name => $text) {
            $value["@$name"] = $text;
        }
        foreach ($this->children as $name => $children) {
            $value[$name] = count($children) === 1 ? $children[0] : $children;
        }
        if (trim($this->text) !== '') {
            $value['#text'] = $this->text;
        }

        return $value;
    }
}
