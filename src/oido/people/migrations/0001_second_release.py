import django.contrib.auth.models
import django.contrib.auth.validators
import django.core.validators
import django.db.models.deletion
import django.utils.timezone
import oido.people.models
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('people', '0001_initial'),
        ('people', '0002_naming_labels_rules'),
        ('people', '0003_memberships'),
        ('people', '0004_roles_are_of_memberships'),
        ('people', '0005_classes_and_sources'),
        ('people', '0006_erased_and_keeping'),
        ('people', '0007_attendance'),
        ('people', '0008_plain_labels'),
    ]

    dependencies = [
        ('auth', '0012_alter_user_first_name_max_length'),
    ]

    operations = [
        migrations.CreateModel(
            name='School',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120, verbose_name='name')),
                ('time_zone', models.CharField(default='UTC', max_length=64, validators=[oido.people.models.check_zone], verbose_name='time zone')),
                ('keep_months', models.PositiveSmallIntegerField(blank=True, null=True, validators=[django.core.validators.MinValueValidator(1), django.core.validators.MaxValueValidator(240)], verbose_name='months to keep takes after the term')),
                ('middle_c_octave', models.SmallIntegerField(choices=[(4, 'C4'), (3, 'C3')], default=4, verbose_name='middle C is')),
                ('value_names', models.CharField(choices=[('british', 'crotchet, quaver'), ('american', 'quarter note, eighth note')], default='british', max_length=10, verbose_name='note values')),
                ('note_names', models.CharField(choices=[('letters', 'letters: C D E'), ('solfege', 'solfège: do re mi')], default='letters', max_length=10, verbose_name='note names')),
            ],
        ),
        migrations.CreateModel(
            name='User',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('password', models.CharField(max_length=128, verbose_name='password')),
                ('last_login', models.DateTimeField(blank=True, null=True, verbose_name='last login')),
                ('is_superuser', models.BooleanField(default=False, help_text='Designates that this user has all permissions without explicitly assigning them.', verbose_name='superuser status')),
                ('username', models.CharField(error_messages={'unique': 'A user with that username already exists.'}, help_text='Required. 150 characters or fewer. Letters, digits and @/./+/-/_ only.', max_length=150, unique=True, validators=[django.contrib.auth.validators.UnicodeUsernameValidator()], verbose_name='username')),
                ('first_name', models.CharField(blank=True, max_length=150, verbose_name='first name')),
                ('last_name', models.CharField(blank=True, max_length=150, verbose_name='last name')),
                ('email', models.EmailField(blank=True, max_length=254, verbose_name='email address')),
                ('is_staff', models.BooleanField(default=False, help_text='Designates whether the user can log into this admin site.', verbose_name='staff status')),
                ('is_active', models.BooleanField(default=True, help_text='Designates whether this user should be treated as active. Unselect this instead of deleting accounts.', verbose_name='active')),
                ('date_joined', models.DateTimeField(default=django.utils.timezone.now, verbose_name='date joined')),
                ('middle_c_octave', models.SmallIntegerField(blank=True, choices=[(4, 'C4'), (3, 'C3')], null=True, verbose_name='middle C is')),
                ('value_names', models.CharField(blank=True, choices=[('british', 'crotchet, quaver'), ('american', 'quarter note, eighth note')], max_length=10, verbose_name='note values')),
                ('note_names', models.CharField(blank=True, choices=[('letters', 'letters: C D E'), ('solfege', 'solfège: do re mi')], max_length=10, verbose_name='note names')),
                ('left_handed', models.BooleanField(default=False, verbose_name='left-handed kit')),
                ('erased_as', models.CharField(blank=True, max_length=10)),
                ('groups', models.ManyToManyField(blank=True, help_text='The groups this user belongs to. A user will get all permissions granted to each of their groups.', related_name='user_set', related_query_name='user', to='auth.group', verbose_name='groups')),
                ('user_permissions', models.ManyToManyField(blank=True, help_text='Specific permissions for this user.', related_name='user_set', related_query_name='user', to='auth.permission', verbose_name='user permissions')),
            ],
            options={
                'verbose_name': 'user',
                'verbose_name_plural': 'users',
                'abstract': False,
            },
            managers=[
                ('objects', django.contrib.auth.models.UserManager()),
            ],
        ),
        migrations.CreateModel(
            name='Attendance',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('joined_at', models.DateTimeField(default=django.utils.timezone.now, null=True)),
                ('user', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='attendances', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'db_table': 'people_schoolclass_students',
            },
        ),
        migrations.CreateModel(
            name='SchoolClass',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80, verbose_name='name')),
                ('position', models.PositiveIntegerField(default=0)),
                ('archived_at', models.DateTimeField(null=True)),
                ('source_id', models.CharField(blank=True, max_length=255)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='classes', to='people.school')),
                ('students', models.ManyToManyField(blank=True, related_name='classes_attended', through='people.Attendance', to=settings.AUTH_USER_MODEL)),
                ('teachers', models.ManyToManyField(related_name='classes_taught', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['position', 'name'],
            },
        ),
        migrations.AddField(
            model_name='attendance',
            name='schoolclass',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='attendances', to='people.schoolclass'),
        ),
        migrations.CreateModel(
            name='Membership',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('role', models.CharField(choices=[('head', 'Head'), ('teacher', 'Teacher'), ('student', 'Student')], max_length=10, verbose_name='role')),
                ('source_id', models.CharField(blank=True, max_length=255)),
                ('joined_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('left_at', models.DateTimeField(null=True)),
                ('chosen_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='memberships', to=settings.AUTH_USER_MODEL)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='memberships', to='people.school')),
            ],
            options={
                'indexes': [models.Index(fields=['school', 'role'], name='people_memb_school__d4254a_idx'), models.Index(fields=['school', 'source_id'], name='people_memb_school__9ab1f1_idx')],
                'constraints': [models.UniqueConstraint(fields=('school', 'person'), name='one_membership_in_school')],
            },
        ),
        migrations.AddConstraint(
            model_name='schoolclass',
            constraint=models.UniqueConstraint(fields=('school', 'name'), name='class_name_in_school'),
        ),
        migrations.AddConstraint(
            model_name='attendance',
            constraint=models.UniqueConstraint(fields=('schoolclass', 'user'), name='one_attendance_of_student'),
        ),
    ]
