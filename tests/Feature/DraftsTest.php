<?php

namespace Tests\Feature;

use App\Models\Draft;
use App\Models\Finding;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use App\Plans\Headless;
use Illuminate\Http\UploadedFile;
use Tests\TestCase;

/** What is typed and not sent: each person's own, page by page; findings decided one by one or all at once. */
final class DraftsTest extends TestCase
{
    private Migration $migration;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->migration();
    }

    private function kept(User $by, string $page): array
    {
        return $this->actingAs($by)->getJson("/m/{$this->migration->id}/draft?page=".urlencode($page))->assertOk()->json();
    }

    public function test_a_draft_is_its_persons_own(): void
    {
        $lead = $this->user(Role::Lead);
        $other = $this->user(Role::Consultant);
        $page = "/m/{$this->migration->id}/crosswalks";
        $fields = ["$page/codes/1/table|rows[][new]|New value of a.b*c" => ['', ' two blanks ']];
        $draft = "/m/{$this->migration->id}/draft";
        $this->actingAs($lead)->putJson($draft, compact('page', 'fields'))->assertOk()->assertJson(['kept' => 1]);
        self::assertSame($fields, $this->kept($lead, $page)['fields']);
        self::assertSame([], $this->kept($other, $page)['fields']);
        self::assertSame([], $this->kept($lead, "$page/party")['fields']);
        $this->actingAs($lead)->putJson("/m/{$this->migration->id}/draft", ['page' => $page, 'fields' => (object) []])->assertOk();
        self::assertSame(0, Draft::query()->count());
    }

    public function test_bad_drafts_are_refused_and_old_ones_forgotten(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $at = "/m/{$this->migration->id}/draft";
        $page = "/m/{$this->migration->id}/runs";
        foreach ([
            ['page' => '/m/999999/runs', 'fields' => ['a' => ['', 'x']]],
            ['page' => "$page\n", 'fields' => ['a' => ['', 'x']]],
            ['page' => $page.str_repeat('x', 300), 'fields' => ['a' => ['', 'x']]],
            ['page' => $page, 'fields' => ['a' => 'x']],
            ['page' => $page, 'fields' => ['a' => ['', ['deeper']]]],
            ['page' => $page, 'fields' => ['a' => ['', str_repeat('x', 300_000)]]],
            ['page' => $page, 'fields' => array_fill(0, 501, ['', 'x'])],
            ['page' => $page, 'fields' => 'text'],
        ] as $bad) {
            self::assertContains($this->putJson($at, $bad)->status(), [400, 422]);
        }
        self::assertSame(0, Draft::query()->count());
        $this->putJson($at, ['page' => $page, 'fields' => ['a' => ['', 'x']]])->assertOk();
        $this->travel(31)->days();
        Draft::sweep();
        self::assertSame(0, Draft::query()->count());
    }

    public function test_findings_are_decided_one_by_one_or_all_at_once(): void
    {
        $plan = $this->smallPlan("no,name\n1, a\n2,n/a\n3,c\n", '{code: no, name: name}');
        $headless = $this->app->make(Headless::class);
        $headless->freeze($this->migration = $headless->import($plan), $plan, fn () => null);
        $findings = Finding::query()->whereIn('code', ['stray_spaces', 'placeholder'])->orderBy('id')->get();
        $take = $findings[0];
        $this->actingAs($this->user(Role::Lead));
        $at = "/m/{$this->migration->id}/sources/extracts/$take->extract_id";
        $line = fn (Finding $f, string $is, string $why) => ['was' => $f->state(), 'decision' => $is, 'note' => $why];
        [$one, $two] = [$findings[0], $findings[1]];
        $decisions = [$one->id => $line($one, 'accepted', 'as it is'), $two->id => $line($two, 'by_rule', 'by a rule')];
        // One line: the others stay as they were, whatever is typed into them.
        $this->post("$at/findings", ['only' => $one->id, 'decisions' => $decisions])->assertSessionHas('told');
        self::assertSame(['accepted', 'open'], [$one->refresh()->decision->value, $two->refresh()->decision->value]);
        // All of them; what somebody decided meanwhile is named and left.
        $this->post("$at/findings", ['decisions' => $decisions])->assertSessionHas('told', fn ($t) => str_contains($t, $two->message));
        self::assertSame(['by_rule', 'by a rule'], [$two->refresh()->decision->value, $two->note]);
        $old = [$two->id => ['was' => 'open|', 'decision' => 'accepted', 'note' => 'too late']];
        $this->post("$at/findings", ['decisions' => $old])->assertSessionHas('refused', fn ($t) => str_contains($t, 'meanwhile'));
        self::assertSame('by a rule', $two->refresh()->note);
        $this->actingAs($this->user(Role::Auditor))->post("$at/findings", ['decisions' => $decisions])->assertForbidden();
    }

    public function test_several_files_are_looked_at_one_after_the_other_and_frozen_together(): void
    {
        $source = $this->migration->sources()->firstOrFail();
        $this->actingAs($this->user(Role::Lead));
        $file = fn (string $name, string $text) => UploadedFile::fake()->createWithContent($name, $text);
        $at = "/m/{$this->migration->id}/sources";
        $first = $this->post("$at/upload", ['source' => $source->id, 'file' => [
            $file('ships.csv', "no;name\n1;Skarv\n"), $file('nothing.csv', ''), $file('owners.csv', "no;name\n7;Ann\n8;Bo\n"),
        ]])->assertRedirect()->assertSessionHas('refused', fn ($t) => str_contains($t, 'nothing.csv'))->headers->get('Location');
        $page = $this->get($first)->assertOk()->assertReads('look at the next file')->assertReads('Freeze all 2 files');
        preg_match_all('~sources/upload/([0-9a-f-]{36})"~', (string) $page->getContent(), $ids);
        $ids = array_values(array_unique($ids[1]));
        $reader = ['kind' => 'delimited', 'encoding' => 'UTF-8', 'delimiter' => ';', 'quote' => '"', 'header' => '1', 'skip' => '0'];
        $send = fn (string $id, string $name, string $then) => $this->from("$at/upload/$id")
            ->post("$at/upload/$id", ['part' => 0, 'name' => $name, 'then' => $then, 'reader' => $reader]);
        $send($ids[0], 'people', 'next')->assertRedirect("$at/upload/$ids[1]");
        $this->get("$at/upload/$ids[0]")->assertOk()->assertSee('value="people"', false)->assertReads('looked at');
        // Two of one name: nothing is frozen.
        $send($ids[1], 'People', 'all')->assertSessionHas('refused', fn ($t) => str_contains($t, 'Nothing was frozen'));
        self::assertSame(0, $source->extracts()->count());
        $send($ids[1], 'owners', 'all')->assertRedirect($at)->assertSessionHas('told');
        $rows = $source->extracts()->with('take')->get()->mapWithKeys(fn ($e) => [$e->name => $e->take?->rows])->all();
        self::assertEquals(['people' => 1, 'owners' => 2], $rows);
        // The next delivery is known by the names of its files.
        $first = $this->post("$at/upload", ['source' => $source->id, 'file' => [
            $file('owners.csv', "no;name\n7;Ann\n8;Bo\n9;Cy\n"), $file('ships.csv', "no;name\n1;Skarv\n2;Tern\n"),
        ]])->assertRedirect()->headers->get('Location');
        $page = (string) $this->get($first)->getContent();
        preg_match_all('~sources/upload/([0-9a-f-]{36})"~', $page, $ids);
        $this->get("$at/upload/".array_values(array_unique($ids[1]))[1])->assertSee('value="people"', false);
        $send(basename((string) $first), 'owners', 'all')->assertRedirect($at)->assertSessionHas('told');
        $rows = $source->extracts()->with('take')->get()->mapWithKeys(fn ($e) => [$e->name => $e->take?->rows])->all();
        self::assertEquals(['people' => 2, 'owners' => 3], $rows);
    }

    public function test_the_next_delivery_of_a_file_is_of_the_tables_that_were_read_of_it(): void
    {
        $source = $this->migration->sources()->firstOrFail();
        $this->actingAs($this->user(Role::Lead));
        $at = "/m/{$this->migration->id}/sources";
        $send = function (string $sql) use ($source, $at): string {
            @unlink($path = self::work('next').'.sqlite');
            (new \PDO("sqlite:$path"))->exec($sql);
            $file = UploadedFile::fake()->createWithContent('old.sqlite', (string) file_get_contents($path));

            $sent = $this->post("$at/upload", ['source' => $source->id, 'file' => [$file]])->assertRedirect();

            return (string) $sent->headers->get('Location');
        };
        $tables = 'CREATE TABLE a (n TEXT); INSERT INTO a VALUES (1); CREATE TABLE b (n TEXT); INSERT INTO b VALUES (1), (2);';
        $first = $send($tables);
        $this->post($first, ['name' => 'piers', 'part' => 1, 'reader' => ['kind' => 'database', 'table' => 'b']])->assertSessionHas('told');
        $this->post($first.'/forget');
        $next = $send($tables.'INSERT INTO b VALUES (3);');
        $this->get("$next?part=1")->assertOk()->assertSee('value="piers"', false);
        $this->post($next, ['all' => 1])->assertSessionHas('told', fn ($t) => str_contains($t, 'Not read before, and left aside: a.'));
        self::assertSame(['piers'], $source->extracts()->pluck('name')->all());
        self::assertSame([2, 3], $source->extracts()->firstOrFail()->takes()->orderBy('number')->pluck('rows')->all());
        $next = $send('CREATE TABLE a (n TEXT); INSERT INTO a VALUES (1);');
        $this->post($next, ['all' => 1])->assertSessionHas('refused', fn ($t) => str_contains($t, 'Not in it any more: piers.'));
        self::assertSame(['piers'], $source->extracts()->pluck('name')->all());
    }
}
