<?php

namespace App\Targets;

use App\Looking\LookGoing;
use App\Looking\Looks;
use App\Models\Target as TargetModel;
use App\Targets\Sql\DryTarget;
use App\Targets\Sql\Rights;
use App\Targets\Sql\SqlRecords;
use App\Targets\Sql\SqlTarget;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;
use PDO;

/** The adapters of a target, chosen in this one place. */
final readonly class Ports
{
    private function __construct(public Target $target, public TargetRecords $records, private TargetLink $link)
    {
    }

    /**
     * What a page asks a target, in a process of its own: no page waits for one that does not answer.
     *
     * @param  array<string, mixed>  $given  further, as the question needs it
     *
     * @throws TargetUnavailable|LookGoing
     */
    public static function ask(TargetModel $target, Question $question, array $given = []): mixed
    {
        try {
            $given += ['target' => $target->getAttributes(), 'question' => $question->value];

            return Looks::ask(TargetLook::class, $given, byWorker: $question === Question::Make);
        } catch (ReadingError $e) {
            $own = str_starts_with($e->getMessage(), 'It ');
            throw TargetUnavailable::because($own ? "The target \"$target->name\": {$e->getMessage()}" : $e->getMessage(), $e);
        }
    }

    public static function of(TargetModel $target): self
    {
        $link = new TargetLink($target);

        return new self(new SqlTarget($link), new SqlRecords($link), $link);
    }

    /** The same target, asked and not written to. */
    public function dry(DryRecords $records): DryTarget
    {
        return new DryTarget($this->link, $this->records, $records);
    }

    /**
     * As schema(), for a page.
     *
     * @throws TargetUnavailable|LookGoing
     */
    public static function schemaOf(TargetModel $target): Schema
    {
        $found = self::ask($target, Question::Schema);

        return new Schema(array_map(Entity::fromArray(...), $found['entities']), $found['others']);
    }

    /**
     * The entities as the target has them now.
     *
     * @throws TargetUnavailable
     */
    public function schema(): Schema
    {
        return (new SchemaReader)->read($this->link);
    }

    /**
     * @return list<string> tables and views
     *
     * @throws TargetUnavailable
     */
    public function tables(): array
    {
        return $this->link->pdo()->query('SHOW TABLES')->fetchAll(PDO::FETCH_COLUMN);
    }

    /**
     * @param  list<Entity>  $entities  that loads fill
     * @return list<string> rights the account lacks, in words
     *
     * @throws TargetUnavailable
     */
    public function missingRights(array $entities): array
    {
        return (new Rights($this->link))->missing($entities);
    }
}
