<?php

namespace Baggage\Core\Reading\Nested;

use Baggage\Core\Reading\Format;

/** XML with a repeated element for each record. Attributes become columns led by "@". */
final readonly class XmlFormat implements Format
{
    /**
     * @param  string  $records  path of the record element from the root, e.g. "export/jobs/job"
     * @param  string  $list  a repeated element inside each record whose occurrences are the rows, keys joined by dots
     * @param  list<string>  $carry  columns of the record that its list's rows carry along
     */
    public function __construct(public string $records, public string $list = '', public array $carry = [])
    {
    }

    public static function kind(): string
    {
        return 'xml';
    }

    public static function fromArray(array $a): self
    {
        return new self(
            trim((string) ($a['records'] ?? ''), " \t/"),
            trim((string) ($a['list'] ?? '')),
            JsonFormat::carried($a['carry'] ?? []),
        );
    }

    public function toArray(): array
    {
        return array_filter(
            ['records' => $this->records ?: null, 'list' => $this->list ?: null, 'carry' => $this->carry ?: null],
            fn ($v) => $v !== null,
        );
    }

    public function describe(): string
    {
        return "XML, $this->records".($this->list === '' ? '' : ", list $this->list");
    }
}
